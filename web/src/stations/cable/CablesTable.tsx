import type { CablePlan, CableResult, Quantity } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { getAt } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { times, sizeWords } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Figure } from "../../ui/Figure";
import { fixed } from "../../ui/format";
import { SeverityMark, worst } from "../../ui/SeverityMark";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { useCablePlan } from "./useCable";
import { depths, fuseWords } from "./words";

interface Props {
  cables: CableResult[];
  chosen: number;
  onChoose: (name: string) => void;
}

/** The tree as a list in the order of the current, each cable with the size that either basis would buy. */
export function CablesTable({ cables, chosen, onChoose }: Props) {
  const plan = useCablePlan();
  const indent = depths(cables);
  return (
    <Group title="Cables, in the order of the current" aside={<WholeDrop />}>
      <Table
        label="Cables"
        head={["Cable", "Size", "Drop", "Peak, RMS", "May carry", "Fuse", ...basesOf(plan.data)]}
      >
        {cables.map((cable, i) => (
          <tr key={cable.name} className={i === chosen ? "bg-sunk" : ""}>
            <td className="min-w-36" style={{ paddingLeft: 4 + 12 * (indent[i] ?? 0) }}>
              <CableName cable={cable} chosen={i === chosen} onChoose={onChoose} />
            </td>
            <td>
              <Size cable={cable} />
            </td>
            <td className="figure text-teal">{fixed(cable.drop_v, 2)} V</td>
            <td className="figure">
              {fixed(cable.peak_a, 0)} A
              <span className="text-soft block text-xs">{fixed(cable.rms_a, 0)} A</span>
            </td>
            <td className="figure">{fixed(cable.ampacity_a, 0)} A</td>
            <td className="text-sm whitespace-nowrap">
              <Fuses cable={cable} />
            </td>
            {plan.data?.cables
              .find((each) => each.field === cable.field)
              ?.bases.map((basis) => (
                <td key={basis.programme} className="text-sm whitespace-nowrap" title={basis.why}>
                  <SchoolPick pick={basis.pick} />
                </td>
              ))}
          </tr>
        ))}
      </Table>
    </Group>
  );
}

function basesOf(plan: CablePlan | undefined): string[] {
  return plan?.cables[0]?.bases.map((basis) => basis.words.replace(/^a /, "")) ?? [];
}

export function CableName({
  cable,
  chosen,
  onChoose,
}: {
  cable: CableResult;
  chosen: boolean;
  onChoose: (name: string) => void;
}) {
  const { forecast } = useWork();
  const flags = (forecast?.flags ?? []).filter(
    (flag) => flag.field.startsWith(`${cable.field}.`) && flag.severity !== "note",
  );
  return (
    <button
      className="min-h-11 text-left underline-offset-4 hover:underline"
      aria-pressed={chosen}
      onClick={() => onChoose(cable.name)}
    >
      {flags.length > 0 && (
        <>
          <SeverityMark severity={worst(flags)} />{" "}
        </>
      )}
      {cable.name}
    </button>
  );
}

/** Both namings of a size, the shop's own first. */
function Size({ cable }: { cable: CableResult }) {
  const [first, second] = sizeWords(cable, useShop());
  return (
    <span className="block leading-tight whitespace-nowrap">
      {times(cable.runs, first)}
      <span className="text-soft block text-xs">{second}</span>
    </span>
  );
}

function Fuses({ cable }: { cable: CableResult }) {
  const { job } = useWork();
  if (cable.role === "strap") return <span className="text-soft">strap</span>;
  const fitted = (key: string) => valueOf(getAt(job, `${cable.field}.${key}`) as Quantity | null);
  const start = fuseWords(fitted("fuse_from_a"), cable.fuse_at_start, cable.fuse_a);
  const end = fuseWords(fitted("fuse_to_a"), cable.fuse_at_end, cable.fuse_a);
  const [words, where] = end === "–" ? [start, ""] : start === "–" ? [end, "at its end"] : [start, end];
  return (
    <>
      {words}
      {where && <span className="text-soft block text-xs">{where === start ? "both ends" : where}</span>}
    </>
  );
}

function SchoolPick({
  pick,
}: {
  pick: { awg: string; mm2: string; runs: number; fuse_a: number | null } | null;
}) {
  const shop = useShop();
  if (!pick) return <span className="text-ochre">▲ none</span>;
  return (
    <>
      {times(pick.runs, sizeWords(pick, shop)[0])}
      <span className="text-soft block text-xs">{pick.fuse_a === null ? "" : `fuse ${pick.fuse_a} A`}</span>
    </>
  );
}

function WholeDrop() {
  const { forecast } = useWork();
  const figure = forecast?.figures.drop_v;
  const first = forecast?.cables[0];
  if (!figure || !first) return null;
  return (
    <span className="text-sm">
      Total path{" "}
      <Figure
        figure={figure}
        tone={figure.value > first.allowed_drop_v ? "vermilion" : "teal"}
        size="medium"
      />{" "}
      of {fixed(first.allowed_drop_v, 1)} V allowed
    </span>
  );
}
