import { lazy, Suspense, useMemo, useState } from "react";

import type { LoadResult } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { Choice } from "../../ui/Choice";
import { plain } from "../../ui/format";
import { nearestIndex } from "../../ui/nearestIndex";
import { figuresAt, linesOf, VIEWS, type View } from "./frequency";

const FrequencyChart = lazy(async () => ({ default: (await import("./FrequencyChart")).FrequencyChart }));
const CHOICES = Object.entries(VIEWS).map(([key, { words }]) => [key as View, words] as const);

/** The load from 10 to 200 Hz; a marker gives every figure at its frequency. */
export function CurvesView({ index, load }: { index: number; load: LoadResult }) {
  const { job, change } = useWork();
  const [view, setView] = useState<View>("ohms");
  const [hz, setHz] = useState(load.tone_hz);
  const { curves } = load;
  const at = nearestIndex(curves.frequency_hz, hz);
  const filters = job.amplifiers?.[index]?.load;
  const passBand = useMemo(
    (): [number | null, number | null] => [valueOf(filters?.high_pass_hz), valueOf(filters?.low_pass_hz)],
    [filters?.high_pass_hz, filters?.low_pass_hz],
  );
  const marked = curves.frequency_hz[at] ?? load.tone_hz;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <Choice label="Shown" value={view} options={CHOICES} onChange={setView} />
      </div>
      {linesOf(curves, view).length > 0 ? (
        <Suspense fallback={<div className="h-[300px]" />}>
          <FrequencyChart
            curves={curves}
            view={view}
            at={at}
            onAt={(i) => setHz(curves.frequency_hz[i] ?? hz)}
            passBand={passBand}
          />
        </Suspense>
      ) : (
        <p className="text-soft bg-sheet border-rule border p-6">{curves.no_travel_why}</p>
      )}
      <div className="mt-3 flex flex-wrap items-baseline justify-between gap-2">
        <h2>
          At <span className="figure">{plain(Number(marked.toFixed(1)))} Hz</span>
        </h2>
        {Math.abs(Math.log(marked / load.tone_hz)) > 0.01 && (
          <button className="underline" onClick={() => change("basis.tone_hz", Number(marked.toFixed(1)))}>
            Make this the tone of the job
          </button>
        )}
      </div>
      <dl aria-label="Figures at the marker" className="grid grid-cols-4 gap-x-6 max-md:grid-cols-2">
        {figuresAt(curves, at).map(([name, figure]) => (
          <div key={name} className="border-rule flex items-baseline justify-between gap-2 border-b py-1.5">
            <dt className="text-soft text-sm">{name}</dt>
            <dd className="figure whitespace-nowrap">{figure}</dd>
          </div>
        ))}
      </dl>
      <p className="text-soft mt-2 text-sm">
        Drag the marker, or focus the chart and use the left and right keys. All at{" "}
        {plain(Number(curves.terminal_v.toFixed(2)))} V at the terminals, as found at the tone; what the
        filters keep out is shaded. Travel and level leave out the coil&rsquo;s inductance and are estimates
        {curves.travel?.cabin_assumed ? "; the cabin's length is assumed" : ""}.
      </p>
    </>
  );
}
