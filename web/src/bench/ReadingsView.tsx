import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { api, data, type AmplifierOut } from "../api/client";
import { BroughtBack } from "../drafts/BroughtBack";
import { SaveProblem } from "../drafts/SaveProblem";
import { useKept } from "../drafts/useKept";
import { today } from "../ui/moments";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { SeverityMark } from "../ui/SeverityMark";
import { columnsOf, OUTPUTS, wayOf, type Cells, type OutputWay } from "./grid/columns";
import { ReadingsGrid } from "./grid/ReadingsGrid";
import { appended, duplicated, EMPTY_ROW, isBlank } from "./grid/rows";
import { readAmplifier, useSaveSheet } from "./useAmplifier";
import { Input } from "../ui/Input";

const WAYS = Object.entries(OUTPUTS).map(([key, { words }]) => [key as OutputWay, words] as const);
const SETTLE_MS = 300;

interface SheetDraft {
  rows: Cells[];
  measuredOn: string;
  note: string;
}

/** A sheet by the names that its fields have everywhere else. */
function told({ rows, measuredOn, note }: SheetDraft) {
  return { rows, measured_on: measuredOn, note };
}
import { SheetRevisions } from "./SheetRevisions";

interface Props {
  amplifier: AmplifierOut;
  asNew: boolean;
  onSaved: (sheet: number) => void;
}

/** A sheet's readings, typed at bench speed, with what follows from each beside it and the audit at its row. */
export function ReadingsView({ amplifier, asNew, onSaved }: Props) {
  const sheet = asNew ? null : amplifier.sheet;
  const stored = useMemo(
    () => (asNew || amplifier.cells.length === 0 ? [EMPTY_ROW] : amplifier.cells),
    [asNew, amplifier],
  );
  const [first] = useState(() => ({
    version: sheet?.version ?? 0,
    document: {
      rows: stored,
      measuredOn: sheet?.measured_on ?? today(),
      note: sheet?.note ?? "",
    },
  }));
  const kept = useKept(keyOf(amplifier, sheet?.id), first);
  const { rows, measuredOn, note } = kept.value;
  const setRows = (now: Cells[]) => kept.set({ ...kept.value, rows: now });
  const [way, setWay] = useState<OutputWay>(wayOf(stored));
  const [all, setAll] = useState(false);
  const [earlier, setEarlier] = useState(false);
  const [opened, setOpened] = useState<number | null>(null);
  const save = useSaveSheet(amplifier, asNew);
  const settled = useSettled(rows);
  const draft = useQuery({
    queryKey: ["draft", amplifier.record, settled],
    queryFn: async () =>
      data(await api.POST("/api/v1/sheet-drafts", { body: { record: amplifier.record, rows: settled } })),
    placeholderData: keepPreviousData,
    gcTime: 5_000,
  });
  const { changed } = kept;
  const keep = () =>
    save.mutate(
      { version: kept.version, measured_on: measuredOn, note, rows: rows.filter((row) => !isBlank(row)) },
      {
        onSuccess: (saved) => {
          kept.saved(kept.value, saved.sheet?.version ?? 0);
          if (saved.sheet) onSaved(saved.sheet.id);
        },
      },
    );
  const findings = draft.data?.findings ?? [];
  return (
    <div
      onKeyDown={(event) => {
        if ((event.ctrlKey || event.metaKey) && event.key === "s") {
          event.preventDefault();
          keep();
        }
      }}
    >
      <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
        <label className="text-soft text-sm">
          Measured on
          <Input
            type="date"
            className="block"
            value={measuredOn}
            onChange={(event) => kept.set({ ...kept.value, measuredOn: event.target.value })}
          />
        </label>
        <label className="text-soft text-sm">
          About this sheet
          <Input
            className="block w-56"
            value={note}
            onChange={(event) => kept.set({ ...kept.value, note: event.target.value })}
          />
        </label>
        <Choice label="Output as" value={way} options={WAYS} onChange={setWay} />
        <Button aria-pressed={all} onClick={() => setAll(!all)}>
          {all ? "Fewer columns" : "All columns"}
        </Button>
        {sheet && <Button onClick={() => setEarlier(true)}>Earlier</Button>}
        <Button strong className="ml-auto" disabled={!changed || save.isPending} onClick={keep}>
          {save.isPending ? "Saving …" : changed ? "Save the sheet" : "Saved"}
        </Button>
      </div>
      {earlier && sheet && (
        <SheetRevisions
          amplifier={amplifier.id}
          sheet={sheet.id}
          version={kept.version}
          onBack={kept.set}
          onClose={() => setEarlier(false)}
        />
      )}
      <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
      <SaveProblem
        error={save.error}
        base={told(kept.base)}
        mine={told(kept.value)}
        read={async () => {
          const { cells, sheet: now } = await readAmplifier(amplifier.id, sheet?.id);
          const document = { rows: cells, measured_on: now?.measured_on ?? "", note: now?.note ?? "" };
          return { version: now?.version ?? 0, document };
        }}
        onSettle={({ rows, measured_on, note }, version) => {
          kept.settle({ rows, measuredOn: measured_on, note }, version);
          save.reset();
        }}
      />
      <Summary rows={rows} findings={findings} onOpen={(row) => setOpened(row - 1)} />
      <ReadingsGrid
        rows={rows}
        columns={columnsOf(way, all)}
        draft={draft.data?.rows}
        findings={findings}
        opened={opened}
        onOpen={setOpened}
        onChange={setRows}
      />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button onClick={() => setRows(appended(rows))}>Add a row</Button>
        <Button onClick={() => setRows(duplicated(rows, rows.length - 1))}>Next load</Button>
        <p className="text-soft text-sm">
          Enter goes down, Tab across; Ctrl&nbsp;Enter copies the row to the next load; Ctrl&nbsp;S saves.
          Paste a block from a spreadsheet at any cell.
        </p>
      </div>
    </div>
  );
}

/** Under what name this browser keeps a sheet that is being typed. */
function keyOf(amplifier: AmplifierOut, sheet: number | undefined): string {
  return sheet === undefined ? `sheet:new:${amplifier.id}` : `sheet:${sheet}`;
}

function Summary({
  rows,
  findings,
  onOpen,
}: {
  rows: Cells[];
  findings: AmplifierOut["findings"];
  onOpen: (row: number) => void;
}) {
  const written = rows.filter((row) => !isBlank(row)).length;
  if (written === 0) return null;
  const open = findings.filter((each) => !each.settled);
  return (
    // As high with a finding as without: an audit that answers moves no button away from under a finger.
    <div aria-label="Audit" role="group" className="mb-2 min-h-11 text-sm">
      {open.length === 0 && (
        <span className="text-moss inline-flex min-h-11 items-center">✓ The audit finds nothing.</span>
      )}
      <ul className="flex flex-wrap gap-x-5 gap-y-1">
        {open.map((each) => (
          <li key={`${each.code} ${each.row} ${each.text}`}>
            <SeverityMark severity={each.severity} />{" "}
            {each.row ? (
              <button
                className="min-h-11 underline-offset-2 hover:underline"
                onClick={() => onOpen(each.row ?? 1)}
              >
                row {each.row}: {each.title}
              </button>
            ) : (
              <span title={`${each.why} ${each.remedy}`}>
                {each.title}: {each.text}
              </span>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** A value once it has rested for a moment. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}
