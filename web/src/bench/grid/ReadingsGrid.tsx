import { Fragment, useRef, type ClipboardEvent, type KeyboardEvent } from "react";

import type { DraftRow, Finding } from "../../api/client";
import { fixed, watts } from "../../ui/format";
import { SeverityMark, worst } from "../../ui/SeverityMark";
import type { Cells, Column } from "./columns";
import { RowFindings } from "./RowFindings";
import { appended, duplicated, isBlank, pasted, removed, setCell } from "./rows";
import { RemoveButton } from "../../ui/RemoveButton";
import { Scroller } from "../../ui/Scroller";

interface Props {
  rows: Cells[];
  columns: Column[];
  draft: DraftRow[] | undefined;
  findings: Finding[];
  opened: number | null;
  onOpen: (row: number | null) => void;
  onChange: (rows: Cells[]) => void;
}

/**
 * The readings as a grid for the keyboard: Enter goes down, Tab across, Ctrl+Enter to a copy of the row with the next
 * load. A block of a spreadsheet may be pasted anywhere.
 */
export function ReadingsGrid({ rows, columns, draft, findings, opened, onOpen, onChange }: Props) {
  // Where true power is what is typed, it need not be said again.
  const showWatts = !columns.some((column) => column.key === "power_w");
  const derivedHeads = [...(showWatts ? ["True watts"] : []), "Efficiency", "Heat", ""];
  const table = useRef<HTMLTableElement>(null);
  const focus = (row: number, column: number) =>
    // After the row has been drawn.
    setTimeout(() => {
      const cell = table.current?.querySelector<HTMLElement>(`[data-cell="${row}:${column}"]`);
      cell?.focus();
      if (cell instanceof HTMLInputElement) cell.select();
    });
  const onKey = (event: KeyboardEvent, row: number, column: number) => {
    const inChoice = event.target instanceof HTMLSelectElement;
    if (event.key === "Enter" && event.ctrlKey) {
      onChange(duplicated(rows, row));
      focus(
        row + 1,
        columns.findIndex((each) => each.key === "supply_v"),
      );
    } else if (event.key === "Enter") {
      if (row === rows.length - 1 && !event.shiftKey) onChange(appended(rows));
      focus(row + (event.shiftKey ? -1 : 1), column);
    } else if (event.key === "ArrowDown" && !inChoice) focus(row + 1, column);
    else if (event.key === "ArrowUp" && !inChoice) focus(row - 1, column);
    else return;
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent, row: number, column: number) => {
    const text = event.clipboardData.getData("text/plain");
    if (!/[\t\n]/.test(text.trim())) return;
    event.preventDefault();
    onChange(pasted(rows, columns, { row, column }, text));
  };
  return (
    <Scroller label="Readings, to scroll">
      <table ref={table} aria-label="Readings" className="w-full text-right">
        <thead className="text-soft border-rule border-b text-sm">
          <tr>
            <th scope="col" className="w-14 px-1 py-2 text-left font-normal">
              Row
            </th>
            {columns.map((column) => (
              <th
                key={column.key}
                scope="col"
                className="px-1 py-2 font-normal"
                style={{ minWidth: `${column.width + 3}ch` }}
              >
                {column.words}
                {column.unit ? `, ${column.unit}` : ""}
              </th>
            ))}
            {derivedHeads.map((words) => (
              <th key={words} scope="col" className="px-2 py-2 font-normal">
                {words || <span className="sr-only">Remove</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => {
            const own = findings.filter((each) => each.row === i + 1);
            const derived = draft?.[i];
            const problem = isBlank(row) ? "" : (derived?.problem ?? "");
            const open = opened === i;
            return (
              <Fragment key={i}>
                <tr
                  className={`border-rule border-t ${row.excluded ? "text-soft line-through decoration-1" : ""} ${open ? "bg-sunk" : ""}`}
                >
                  <td className="px-1 text-left whitespace-nowrap">
                    <button
                      className="inline-flex h-11 min-w-11 items-center gap-1 rounded-sm px-1 hover:underline"
                      aria-expanded={open}
                      aria-label={`Row ${i + 1}: ${own.length || "no"} findings`}
                      tabIndex={own.length > 0 || row.excluded ? 0 : -1}
                      onClick={() => onOpen(open ? null : i)}
                    >
                      {i + 1} {own.length > 0 && <SeverityMark severity={worst(own)} />}
                    </button>
                  </td>
                  {columns.map((column, j) => (
                    <td key={column.key} className="px-0.5 py-0.5">
                      <Cell
                        column={column}
                        row={i}
                        place={`${i}:${j}`}
                        text={row[column.key] ?? ""}
                        wrong={problem !== "" && derived?.column === column.key}
                        onText={(text) => onChange(setCell(rows, i, column.key, text))}
                        onKey={(event) => onKey(event, i, j)}
                        onPaste={(event) => onPaste(event, i, j)}
                      />
                    </td>
                  ))}
                  {showWatts && (
                    <td className="figure px-2">
                      {derived?.out_w == null ? "–" : `${watts(derived.out_w)} W`}
                    </td>
                  )}
                  <td className="figure px-2">
                    {derived?.efficiency == null ? "–" : `${fixed(derived.efficiency * 100, 0)} %`}
                  </td>
                  <td className="figure px-2">
                    {derived?.heat_w == null ? "–" : `${watts(derived.heat_w)} W`}
                  </td>
                  <td>
                    <RemoveButton
                      tabIndex={-1}
                      label={`Remove row ${i + 1}`}
                      onClick={() => onChange(removed(rows, i))}
                    />
                  </td>
                </tr>
                {problem && (
                  <tr>
                    <td
                      colSpan={columns.length + 1 + derivedHeads.length}
                      className="text-vermilion px-1 pb-1 text-left text-sm"
                    >
                      <span aria-hidden>◆ </span>row {i + 1}: {derived?.column && `${derived.column}: `}
                      {problem}
                    </td>
                  </tr>
                )}
                {open && (
                  <tr className="bg-sunk">
                    <td colSpan={columns.length + 1 + derivedHeads.length} className="px-2 pb-3 text-left">
                      <RowFindings
                        row={row}
                        findings={own}
                        onJudge={(change) =>
                          onChange(rows.map((each, n) => (n === i ? { ...each, ...change } : each)))
                        }
                      />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </Scroller>
  );
}

interface CellProps {
  column: Column;
  row: number;
  place: string;
  text: string;
  wrong: boolean;
  onText: (text: string) => void;
  onKey: (event: KeyboardEvent) => void;
  onPaste: (event: ClipboardEvent) => void;
}

function Cell({ column, row, place, text, wrong, onText, onKey, onPaste }: CellProps) {
  const shared = {
    "data-cell": place,
    "aria-label": `${column.words}${column.unit ? `, ${column.unit}` : ""}, row ${row + 1}`,
    onKeyDown: onKey,
    value: text,
  };
  const look = `h-11 w-full rounded-sm border bg-transparent focus:bg-sheet ${wrong ? "border-vermilion" : "border-rule"}`;
  if (column.choices)
    return (
      <select {...shared} className={`${look} px-0.5`} onChange={(event) => onText(event.target.value)}>
        {column.choices.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    );
  const numeric = column.unit !== undefined || ["power_factor", "meter_range"].includes(column.key);
  return (
    <input
      {...shared}
      inputMode={numeric ? "decimal" : "text"}
      aria-invalid={wrong}
      style={{ minWidth: `${column.width}ch` }}
      className={`${look} px-1.5 ${numeric ? "figure text-right" : ""}`}
      onChange={(event) => onText(event.target.value)}
      onPaste={onPaste}
    />
  );
}
