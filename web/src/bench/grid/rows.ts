import type { Cells, Column } from "./columns";
import { toNumber } from "../../ui/number";

/** The loads of a usual bench, high to low; a duplicated row goes on to the next one. */
const LOADS = [8, 6, 4, 3, 2.67, 2, 1.5, 1.33, 1, 0.75, 0.67, 0.5];
/** What stays from one reading to the next. */
const STAYS = [
  "load_kind",
  "criterion",
  "tone_hz",
  "supply_before_v",
  "meter",
  "meter_range",
  "four_wire",
  "date",
];
/** What was read, and is written down when a reading is corrected. */
const READ = ["supply_before_v", "supply_v", "supply_a", "power_w", "output_v", "output_a", "power_factor"];

export const EMPTY_ROW: Cells = { load_ohm: "", load_kind: "resistive", criterion: "thd1", tone_hz: "40" };

/** Whether somebody has put a reading into the row. */
export function isBlank(row: Cells): boolean {
  return !row.load_ohm?.trim() && READ.every((key) => !row[key]?.trim());
}

export function setCell(rows: readonly Cells[], at: number, key: string, text: string): Cells[] {
  return rows.map((row, i) => (i === at ? { ...row, [key]: text } : row));
}

export function appended(rows: readonly Cells[]): Cells[] {
  const last = rows.at(-1);
  const next = last ? { ...EMPTY_ROW, ...kept(last) } : EMPTY_ROW;
  return [...rows, next];
}

/** A copy of a row below it with the next load, its readings empty. */
export function duplicated(rows: readonly Cells[], at: number): Cells[] {
  const row = rows[at] ?? EMPTY_ROW;
  const next = { ...kept(row), load_ohm: nextLoad(row.load_ohm ?? "") };
  return [...rows.slice(0, at + 1), next, ...rows.slice(at + 1)];
}

function kept(row: Cells): Cells {
  return Object.fromEntries(STAYS.filter((key) => row[key]).map((key) => [key, row[key] ?? ""]));
}

export function nextLoad(load: string): string {
  const ohm = toNumber(load);
  return String(LOADS.find((each) => each < ohm * 0.99) ?? load);
}

export function removed(rows: readonly Cells[], at: number): Cells[] {
  return rows.filter((_, i) => i !== at);
}

/** A block of a spreadsheet put in from a cell on; rows that do not exist yet are made. */
export function pasted(
  rows: readonly Cells[],
  columns: readonly Column[],
  at: { row: number; column: number },
  text: string,
): Cells[] {
  const block = text
    .replace(/\r/g, "")
    .replace(/\n+$/, "")
    .split("\n")
    .map((line) => line.split("\t"));
  const out = [...rows];
  block.forEach((cells, down) => {
    const row = { ...(out[at.row + down] ?? EMPTY_ROW) };
    cells.forEach((cell, across) => {
      const column = columns[at.column + across];
      if (column) row[column.key] = understood(column, cell.trim());
    });
    out[at.row + down] = row;
  });
  return out;
}

/** A choice may be pasted as its word on the screen or as its key. */
function understood(column: Column, cell: string): string {
  const found = column.choices?.find(
    ([key, words]) => key === cell.toLowerCase() || words.toLowerCase() === cell.toLowerCase(),
  );
  return found ? found[0] : cell;
}

/** What was read in a row, in words, to be kept when it is corrected. */
export function asRead(row: Cells): string {
  return READ.filter((key) => row[key])
    .map((key) => `${key} ${row[key]}`)
    .join(", ");
}
