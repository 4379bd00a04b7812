import type { CablePlan, CableResult, Quantity } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { getAt } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { fixed } from "../../ui/format";
import { LeftHead, Table } from "../../ui/Table";
import { Group } from "../Split";
import { CableName } from "./CablesTable";
import { placeOf } from "./placeOf";
import { useCablePlan } from "./useCable";
import { fuseWords } from "./words";

interface Props {
  cables: CableResult[];
  chosen: number;
  onChoose: (name: string) => void;
}

const ENGINES = { off: "engine off", idle: "idle", cruise: "cruise" };

/** Each cable's window from its current to what it may carry, the ends that need a fuse, and the amplifiers' own. */
export function FusesView({ cables, chosen, onChoose }: Props) {
  const plan = useCablePlan();
  return (
    <>
      <Group title="Between the current and what the cable may carry">
        <Table
          label="Fuses"
          head={[
            "Cable",
            "RMS, worst",
            "At least",
            "At most",
            "Standard fuses",
            <LeftHead key="start">At its start</LeftHead>,
            <LeftHead key="end">At its end</LeftHead>,
          ]}
        >
          {cables
            .filter((cable) => cable.role !== "strap")
            .map((cable) => (
              <tr key={cable.field} className={cables[chosen] === cable ? "bg-sunk" : ""}>
                <td className="pl-1!">
                  <CableName cable={cable} chosen={cables[chosen] === cable} onChoose={onChoose} />
                </td>
                <td className="figure">
                  {fixed(cable.worst_rms_a / cable.runs, 0)} A
                  <span className="text-soft block font-sans text-xs font-normal whitespace-normal">
                    {cable.worst_when}
                  </span>
                </td>
                <td className="figure">{fixed(cable.fuse_least_a, 0)} A</td>
                <td className="figure">{fixed(cable.fuse_most_a, 0)} A</td>
                <td className="figure">
                  <Fitting cable={cable} />
                </td>
                <End cable={cable} end="from" />
                <End cable={cable} end="to" />
              </tr>
            ))}
        </Table>
        {cables
          .filter((cable) => cable.fuse_why && cable.role !== "strap")
          .map((cable) => (
            <p key={cable.field} className="text-vermilion mt-1 text-sm">
              ◆ {cable.name}: {cable.fuse_why}.
            </p>
          ))}
        <p className="text-soft mt-2 text-sm">
          Each run has a fuse of its own. At least: the RMS current over 0.8, and it must carry the loudest
          moments. At most: what the cable may carry. A fuse belongs within 450 mm (18 in) of every battery
          that can feed the cable, and at a block where the fuses before it let more through than the cable
          carries.
        </p>
      </Group>
      {plan.data && <OwnFuses fuses={plan.data.own_fuses} />}
    </>
  );
}

/** The standard fuses in the window, from the smallest to the largest. */
function Fitting({ cable: { fuse_fits: fits } }: { cable: CableResult }) {
  const [least, most] = [fits[0], fits.at(-1)];
  if (least === undefined) return <span className="text-vermilion">◆ none</span>;
  return least === most ? `${least} A` : `${least} to ${most} A`;
}

/** One end: fitted, advised, or not needed, with a button that takes the advice. */
function End({ cable, end }: { cable: CableResult; end: "from" | "to" }) {
  const { job, forecast, change } = useWork();
  const field = `${placeOf(cable)}.fuse_${end}_a` as const;
  const fitted = valueOf(getAt(job, field) as Quantity | null);
  const needed = end === "from" ? cable.fuse_at_start : cable.fuse_at_end;
  const place = end === "from" ? cable.start_words : cable.end_words;
  const flag = forecast?.flags.find((each) => each.field === field && each.severity !== "note");
  const advised = cable.fuse_a;
  return (
    <td className="text-left! text-sm">
      <span className="whitespace-nowrap">
        {fitted !== null && !flag && <span className="text-moss">✓ </span>}
        {flag && <span className="text-vermilion">◆ </span>}
        {fuseWords(fitted, needed, advised)}
      </span>
      <span className="text-soft block text-xs">{place}</span>
      {advised !== null && fitted !== advised && ((needed && fitted === null) || flag) && (
        <button
          className="border-rule bg-sheet hover:border-ink mt-0.5 min-h-11 rounded-sm border px-2 text-sm whitespace-nowrap"
          aria-label={`Fit ${advised} A in ${cable.name} at the ${place}`}
          onClick={() => change(field, advised)}
        >
          Fit {advised} A
        </button>
      )}
    </td>
  );
}

function OwnFuses({ fuses }: { fuses: CablePlan["own_fuses"] }) {
  if (fuses.length === 0) return null;
  return (
    <Group title="The amplifiers' own fuses, at clipping">
      <Table
        label="Amplifiers' own fuses"
        head={[
          "Amplifier",
          "Its fuses",
          "Draws at clipping",
          "Of the fuses",
          <LeftHead key="w">They</LeftHead>,
        ]}
      >
        {fuses.map((each) => (
          <tr key={each.field}>
            <td>{each.name}</td>
            <td className="figure">{each.fuses_a.join(" + ")} A</td>
            <td className="figure">
              {fixed(each.clip_a, 0)} A
              <span className="text-soft block font-sans text-xs font-normal">
                {ENGINES[each.engine]}
                {each.criterion !== "clip" && `, from ${each.criterion}`}
              </span>
            </td>
            <td className="figure">{fixed(100 * each.share, 0)} %</td>
            <td className={`text-left! text-sm ${each.soonest_s === null ? "text-moss" : "text-ochre"}`}>
              {each.soonest_s === null ? "✓ carry" : "▲ "}
              {each.soonest_s === null ? " it for good" : each.words}
            </td>
          </tr>
        ))}
      </Table>
      <p className="text-soft mt-1 text-sm">
        Opening times are the limits of ISO 8820-3 for blade fuses; bolt-in fuses follow their maker's curve.
      </p>
    </Group>
  );
}
