import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import type { AmplifierOut } from "../api/client";
import { valueOf } from "../api/quantity";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { plain } from "../ui/format";
import { Tabs } from "../ui/Tabs";
import { ClaimsView } from "./ClaimsView";
import { CurvesView } from "./CurvesView";
import { ReadingsView } from "./ReadingsView";
import { RecordView } from "./record/RecordView";
import { RemoveFromBench } from "./RemoveFromBench";
import { StiffnessView } from "./StiffnessView";
import { useAmplifier } from "./useAmplifier";
import { Select } from "../ui/Select";

const VIEWS = [
  ["curves", "Curves"],
  ["readings", "Readings"],
  ["claims", "Claims"],
  ["supply", "Bench supply"],
  ["record", "Record"],
] as const;
type View = (typeof VIEWS)[number][0];

/** One amplifier of the bench: its curves, readings, claims, what the bench did to them, and its record. */
export function AmplifierPage() {
  const { id, view } = useParams();
  const navigate = useNavigate();
  const [query, setQuery] = useSearchParams();
  const asked = Number(query.get("sheet"));
  const sheet = Number.isInteger(asked) && asked > 0 ? asked : undefined;
  const setSheet = (next: number) => setQuery({ sheet: String(next) }, { replace: true });
  const [asNew, setAsNew] = useState(false);
  const [begun, setBegun] = useState(0);
  const [born, setBorn] = useState<{ sheet: number; key: string } | null>(null);
  const amplifier = useAmplifier(Number(id), sheet);
  const open = VIEWS.find(([key]) => key === view)?.[0] ?? "curves";
  if (amplifier.error)
    return (
      <div className="p-8">
        <Complaint>{amplifier.error.message}</Complaint>
      </div>
    );
  if (!amplifier.data) return <p className="text-soft p-8">Fitting the readings …</p>;
  const sheetId = amplifier.data.sheet?.id;
  const own = asNew || sheetId === undefined ? `new ${begun}` : `sheet ${sheetId}`;
  const gridKey = born !== null && born.sheet === sheetId && !asNew ? born.key : own;
  const show = (next: View) =>
    void navigate({ pathname: `/bench/${id}/${next}`, search: query.toString() }, { replace: true });
  return (
    <div className="px-8 py-5 max-md:px-4">
      <p className="text-sm">
        <Link to="/bench" className="inline-flex min-h-11 min-w-11 items-center underline underline-offset-4">
          Bench
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="text-2xl font-bold">{amplifier.data.record.name}</h1>
        <SheetChoice
          amplifier={amplifier.data}
          asNew={asNew}
          onSheet={(next) => {
            setSheet(next);
            setAsNew(false);
          }}
          onNew={() => {
            setAsNew(true);
            setBegun(begun + 1);
            show("readings");
          }}
        />
      </div>
      <p className="text-soft mb-3">{facts(amplifier.data)}</p>
      <Tabs label="Views of the amplifier" value={open} options={VIEWS} onChange={show}>
        <Opened
          view={open}
          amplifier={amplifier.data}
          asNew={asNew}
          gridKey={gridKey}
          onSaved={(saved) => {
            // A sheet that was new goes on as the one that it became: what was typed while it was saved stays.
            setBorn({ sheet: saved, key: gridKey });
            setSheet(saved);
            setAsNew(false);
          }}
        />
      </Tabs>
    </div>
  );
}

interface OpenedProps {
  view: View;
  amplifier: AmplifierOut;
  asNew: boolean;
  gridKey: string;
  onSaved: (sheet: number) => void;
}

function Opened({ view, amplifier, asNew, gridKey, onSaved }: OpenedProps) {
  const { sheet, version } = amplifier;
  switch (view) {
    case "curves":
      return <CurvesView key={sheet?.id} amplifier={amplifier} />;
    case "readings":
      return <ReadingsView key={gridKey} amplifier={amplifier} asNew={asNew} onSaved={onSaved} />;
    case "claims":
      return <ClaimsView key={version} amplifier={amplifier} />;
    case "supply":
      return <StiffnessView amplifier={amplifier} />;
    case "record":
      return <RecordView key={amplifier.id} amplifier={amplifier} />;
  }
}

interface SheetChoiceProps {
  amplifier: AmplifierOut;
  asNew: boolean;
  onSheet: (sheet: number) => void;
  onNew: () => void;
}

function SheetChoice({ amplifier, asNew, onSheet, onNew }: SheetChoiceProps) {
  const { sheets, sheet } = amplifier;
  return (
    <div className="flex flex-wrap items-center gap-2">
      {sheets.length > 0 && (
        <label className="text-soft text-sm">
          Sheet{" "}
          <Select value={asNew ? "" : sheet?.id} onChange={(event) => onSheet(Number(event.target.value))}>
            {asNew && <option value="">new, not saved</option>}
            {sheets.map((each) => (
              <option key={each.id} value={each.id}>
                {each.measured_on}, {each.runs} readings{each.note && `, ${each.note}`}
              </option>
            ))}
          </Select>
        </label>
      )}
      <Button onClick={onNew} disabled={asNew}>
        Measure again
      </Button>
      <a
        className="border-rule bg-sheet hover:border-ink grid h-11 place-items-center rounded-sm border px-4"
        href={`/api/v1/amplifiers/${amplifier.id}/sheet${sheet ? `?sheet=${sheet.id}` : ""}`}
        download
      >
        Export the sheet
      </a>
      <RemoveFromBench amplifier={amplifier} asNew={asNew} onSheet={onSheet} />
    </div>
  );
}

function facts({ record, one_output }: AmplifierOut): string {
  const lowest = valueOf(record.minimum_load_ohm);
  const price = valueOf(record.price);
  const channels = valueOf(record.channels) ?? 1;
  return [
    `class ${record.class}`,
    channels > 1 && `${channels} channels, figures for one`,
    record.band && (record.band === "bass" ? "bass only" : "full band"),
    lowest !== null && `lowest safe load ${plain(lowest)} Ω`,
    record.fuses_a && record.fuses_a.length > 0 && `fuses ${record.fuses_a.join(" + ")} A`,
    record.terminal_max && `terminals up to ${record.terminal_max}`,
    one_output && "its speaker terminals are one output",
    price !== null && `${plain(price)} ${record.currency ?? ""}`,
  ]
    .filter(Boolean)
    .join(" · ");
}
