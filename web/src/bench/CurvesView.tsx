import { lazy, Suspense, useMemo, useState } from "react";

import type { AmplifierOut } from "../api/client";
import { Choice } from "../ui/Choice";
import { fixed, plain } from "../ui/format";
import { linesOf, QUANTITIES, type Quantity } from "./charts/lines";
import { CRITERIA, type Criterion } from "./criteria";
import { useAmplifier } from "./useAmplifier";
import { Select } from "../ui/Select";

const LoadChart = lazy(async () => ({ default: (await import("./charts/LoadChart")).LoadChart }));
const QUANTITY_CHOICES = Object.entries(QUANTITIES).map(
  ([key, { words }]) => [key as Quantity, words] as const,
);

/** What the readings say over load: watts with their limits and band, and what the bench saw beside it. */
export function CurvesView({ amplifier }: { amplifier: AmplifierOut }) {
  const [quantity, setQuantity] = useState<Quantity>("power_w");
  const [only, setOnly] = useState<Criterion | "all">("all");
  const [otherId, setOtherId] = useState<number | null>(null);
  const other = useAmplifier(amplifier.id, otherId ?? undefined);
  const { curves, sheet } = amplifier;
  const lines = useMemo(() => {
    const beside =
      otherId !== null && other.data?.sheet?.id === otherId
        ? { name: other.data.sheet.measured_on.slice(0, 4), curves: other.data.curves }
        : null;
    return linesOf(curves, quantity, only, beside);
  }, [curves, quantity, only, otherId, other.data]);
  const [first] = curves;
  if (!first || !sheet)
    return <p className="text-soft">Nothing was measured yet: enter readings, or import a bench sheet.</p>;
  const others = amplifier.sheets.filter((each) => each.id !== sheet.id);
  const criteria = [
    ["all", "All"],
    ...curves.map((curve) => [curve.criterion, CRITERIA[curve.criterion].words] as const),
  ] as const;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-x-6 gap-y-2">
        <Choice label="Over load" value={quantity} options={QUANTITY_CHOICES} onChange={setQuantity} />
        <Choice label="Criterion" value={only} options={criteria} onChange={setOnly} />
        {others.length > 0 && (
          <label className="text-soft text-sm">
            Laid over it{" "}
            <Select
              value={otherId ?? ""}
              onChange={(event) => setOtherId(event.target.value ? Number(event.target.value) : null)}
            >
              <option value="">no other sheet</option>
              {others.map((each) => (
                <option key={each.id} value={each.id}>
                  sheet of {each.measured_on}
                </option>
              ))}
            </Select>
          </label>
        )}
      </div>
      <Suspense fallback={<div className="h-[392px]" />}>
        <LoadChart lines={lines} quantity={quantity} fileName={`${amplifier.record.name}, ${quantity}`} />
      </Suspense>
      <p className="text-soft mt-2 text-sm">
        Watts are drawn as they would be at 14.4 V: output follows the supply to the power{" "}
        {fixed(first.supply_exponent, 2)} ({first.exponent_origin}). Everything else is at the bench&rsquo;s
        own volts. {first.input_assumed && "Amps were not read: the draw is the usual one of its class. "}
        {first.gaps.map((gap) => `${gap[0]?.toUpperCase()}${gap.slice(1)}. `)}
        {amplifier.tones_hz.length > 1 &&
          `Readings at ${amplifier.tones_hz.map(plain).join(" and ")} Hz are fitted each for itself; drawn at ${plain(first.tone_hz ?? 0)} Hz. `}
        <a
          className="text-ink -my-3 inline-block py-3 underline underline-offset-4"
          href={`/api/v1/amplifiers/${amplifier.id}/curves?sheet=${sheet.id}`}
          download
        >
          Curves as CSV
        </a>
      </p>
    </>
  );
}
