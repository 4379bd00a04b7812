import type { BasisChoices, Cable, CableResult, SizeChoice, SizesWanted } from "../../api/client";
import { setAll } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { money, sizeWords, times } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Choice } from "../../ui/Choice";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { Steps } from "./Steps";
import type { useCableChoices } from "./useCable";
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

interface Props {
  cable: CableResult;
  choices: ReturnType<typeof useCableChoices>;
  /** What was chosen to be looked at; the rest is as the server shows it first. */
  wanted: SizesWanted;
  onWant: (wanted: SizesWanted) => void;
}

/** Sizes for one cable, the others as they stand: sized for the full tone beside sized for the music. */
export function SizesView({ cable, choices, wanted, onWant }: Props) {
  if (choices.error) return <Complaint>{choices.error.message}</Complaint>;
  if (choices.data?.field !== cable.field) return <p>Ranking the sizes …</p>;
  const { bases, ...first } = choices.data;
  const shown = { conductor: first.conductor, runs: first.runs, kind: first.kind, ...wanted };
  return (
    <Group title={`Sizes for ${cable.name}, the others as they stand`}>
      <div className="mb-1 flex flex-wrap items-center gap-x-5 gap-y-2">
        <label className="flex items-center gap-2">
          <span className="text-soft text-sm">Sizes of</span>
          <Select
            className="w-36"
            value={shown.conductor ?? ""}
            onChange={(event) => onWant({ ...wanted, conductor: event.target.value as Cable["conductor"] })}
          >
            {CONDUCTORS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </label>
        <Choice
          label="Runs"
          value={String(shown.runs)}
          options={RUNS}
          onChange={(runs) => onWant({ ...wanted, runs: Number(runs) })}
        />
        <Choice
          label="Sizes in"
          value={shown.kind ?? "awg"}
          options={KINDS}
          onChange={(kind) => onWant({ ...wanted, kind })}
        />
      </div>
      <p className="text-soft text-sm">
        In the engine state where most flows through it, which may be another than the one shown above.
      </p>
      {bases[0]?.choices.length === 0 ? (
        <p className="text-soft py-3">None of this kind is on the shelf.</p>
      ) : (
        <SizesTable cable={cable} bases={bases} />
      )}
      <Steps bases={bases} />
    </Group>
  );
}

function SizesTable({ cable, bases }: { cable: CableResult; bases: BasisChoices[] }) {
  const shop = useShop();
  const sizes = bases[0]?.choices ?? [];
  const priced = sizes.some((each) => each.price !== null);
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
      {sizes.map((first, row) => {
        const choices = bases.flatMap((each) => each.choices[row] ?? []);
        const [size, other] = sizeWords(first, shop);
        return (
          <tr key={first.size} className={bases.some((each) => each.pick === row) ? "bg-sunk" : ""}>
            <td className="pl-2! leading-tight whitespace-nowrap">
              {times(first.runs, size)}
              <span className="text-soft block text-xs">
                {other}
                {first.measured && ", measured"}
              </span>
            </td>
            {choices.map((choice, i) => (
              <td key={i} className={bases[i]?.pick === row ? "font-bold" : ""} title={choice.why.join("; ")}>
                <span className={`figure ${choice.fails.includes("drop") ? "" : "text-teal"}`}>
                  {fixed(choice.path_drop_v, 2)} V
                </span>
                <Verdict choice={choice} picked={bases[i]?.pick === row} />
              </td>
            ))}
            <td className="figure">{fixed(Math.max(...choices.map((each) => each.loss_w)), 1)} W</td>
            <td className="figure">
              {fixed(first.ampacity_a, 0)} A
              <span className="text-soft block font-sans text-xs font-normal">
                {fixed(100 * Math.min(...choices.map((each) => each.heat_margin)), 0)} % left
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
