import { useState } from "react";

import type { CableResult, BasisChoices, SizeChoice } from "../../api/client";
import { setAll } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { money, sizeWords, times } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Choice } from "../../ui/Choice";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { rowsAround, type SizeRow } from "./sizeRows";
import { Steps } from "./Steps";
import { useCableChoices } from "./useCable";
import { CONDUCTORS } from "./words";
import { Select } from "../../ui/Select";

const RUNS = [
  ["1", "1"],
  ["2", "2"],
  ["3", "3"],
  ["4", "4"],
] as const;
const KINDS = [
  ["awg", "AWG"],
  ["mm2", "mm²"],
] as const;

/** Every size for one cable, the others as they stand: sized for the full tone beside sized for the music. */
export function SizesView({ index, cable }: { index: number; cable: CableResult }) {
  const shop = useShop();
  const choices = useCableChoices(index);
  const [metal, setMetal] = useState<string | null>(null);
  const [runs, setRuns] = useState<string | null>(null);
  const [kind, setKind] = useState<"awg" | "mm2" | null>(null);
  if (choices.error) return <Complaint>{choices.error.message}</Complaint>;
  const bases = choices.data?.bases ?? [];
  if (choices.data?.field !== cable.field || bases.length === 0) return <p>Ranking the sizes …</p>;
  const wanted = {
    conductor: metal ?? cable.conductor,
    runs: Number(runs ?? runsOf(bases, cable)),
    kind: kind ?? shop.sizes,
  };
  const rows = rowsAround(bases, wanted);
  return (
    <Group title={`Sizes for ${cable.name}, the others as they stand`}>
      <div className="mb-1 flex flex-wrap items-center gap-x-5 gap-y-2">
        <label className="flex items-center gap-2">
          <span className="text-soft text-sm">Sizes of</span>
          <Select
            className="w-36"
            value={wanted.conductor}
            onChange={(event) => setMetal(event.target.value)}
          >
            {CONDUCTORS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </label>
        <Choice label="Runs" value={String(wanted.runs)} options={RUNS} onChange={setRuns} />
        <Choice label="Sizes in" value={wanted.kind} options={KINDS} onChange={setKind} />
      </div>
      <p className="text-soft text-sm">
        In the engine state where most flows through it, which may be another than the one shown above.
      </p>
      {rows.length === 0 ? (
        <p className="text-soft py-3">None of this kind is on the shelf.</p>
      ) : (
        <SizesTable cable={cable} bases={bases} rows={rows} />
      )}
      <Steps bases={bases} />
    </Group>
  );
}

/** The runs to show first: those of the first pick, else as laid. */
function runsOf(bases: BasisChoices[], cable: CableResult): number {
  return bases.find((each) => each.basis.pick)?.basis.pick?.runs ?? cable.runs;
}

function SizesTable({ cable, bases, rows }: { cable: CableResult; bases: BasisChoices[]; rows: SizeRow[] }) {
  const priced = rows.some((row) => row.choices[0]?.price != null);
  const shop = useShop();
  return (
    <Table
      label="Sizes"
      head={[
        "Size",
        ...bases.map(({ basis }) => `Total path, ${basis.words}`),
        "Lost in the wire",
        "May carry",
        priced ? "Weight, price" : "Weight",
        "",
      ]}
    >
      {rows.map((row) => {
        const first = row.choices[0];
        if (!first) return null;
        const [size, other] = sizeWords(first, shop);
        return (
          <tr key={row.key} className={row.picked.some(Boolean) ? "bg-sunk" : ""}>
            <td className="pl-2! leading-tight whitespace-nowrap">
              {times(first.runs, size)}
              <span className="text-soft block text-xs">
                {other}
                {first.measured && ", measured"}
              </span>
            </td>
            {row.choices.map((choice, i) => (
              <td key={i} className={row.picked[i] ? "font-bold" : ""} title={choice.why.join("; ")}>
                <span className={`figure ${choice.fails.includes("drop") ? "" : "text-teal"}`}>
                  {fixed(choice.path_drop_v, 2)} V
                </span>
                <Verdict choice={choice} picked={row.picked[i] ?? false} />
              </td>
            ))}
            <td className="figure">{fixed(Math.max(...row.choices.map((each) => each.loss_w)), 1)} W</td>
            <td className="figure">
              {fixed(first.ampacity_a, 0)} A
              <span className="text-soft block font-sans text-xs font-normal">
                {fixed(100 * Math.min(...row.choices.map((each) => each.heat_margin)), 0)} % left
              </span>
            </td>
            <td className="figure">
              {fixed(first.weight_kg, 1)} kg
              {priced && (
                <span className="text-soft block font-sans text-xs font-normal">
                  {first.price == null ? "–" : money(first.price, shop.currency)}
                </span>
              )}
            </td>
            <td>
              <Use cable={cable} choice={first} words={size} />
            </td>
          </tr>
        );
      })}
    </Table>
  );
}

const FAULTS: Record<SizeChoice["fails"][number], string> = {
  drop: "drops too much",
  heat: "gets too hot",
  fuse: "no fuse fits",
  terminal: "too thick",
  inputs: "too many runs",
};

/** What a basis says of a size: passes with its fuse, or what speaks against it. */
function Verdict({ choice, picked }: { choice: SizeChoice; picked: boolean }) {
  const fuse = choice.fuse_a === null ? "" : `, fuse ${choice.fuse_a} A`;
  return choice.passes ? (
    <span className="text-moss block text-xs whitespace-nowrap">
      ✓ {picked ? "smallest" : "passes"}
      {fuse}
    </span>
  ) : (
    <span className="text-soft block text-xs font-normal">
      {choice.fails.map((each) => FAULTS[each]).join(", ")}
    </span>
  );
}

function Use({ cable, choice, words }: { cable: CableResult; choice: SizeChoice; words: string }) {
  const { job, change } = useWork();
  const same =
    choice.size === cable.size && choice.runs === cable.runs && choice.conductor === cable.conductor;
  if (same) return <span className="text-soft text-sm">as laid</span>;
  return (
    <button
      className="hover:bg-sheet border-rule min-h-11 rounded-sm border px-3"
      aria-label={`Use ${times(choice.runs, words)}`}
      onClick={() =>
        change(
          "",
          setAll(job, {
            [`${cable.field}.size`]: choice.size,
            [`${cable.field}.runs`]: choice.runs,
            [`${cable.field}.conductor`]: choice.conductor,
            [`${cable.field}.measured_ohm_per_m`]: null,
            [`${cable.field}.strands`]: null,
            [`${cable.field}.strand_mm`]: null,
          }),
        )
      }
    >
      Use
    </button>
  );
}
