import { LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, MarkAreaComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";

import type { LoadResult } from "../../api/client";
import { plain } from "../../ui/format";
import { nearestIndex } from "../../ui/nearestIndex";
import { useChart } from "../../ui/useChart";
import { linesOf, VIEWS, type View } from "./frequency";
import { frequencyOptions } from "./frequencyOptions";

echarts.use([LineChart, ScatterChart, GridComponent, MarkLineComponent, MarkAreaComponent]);

interface Props {
  curves: LoadResult["curves"];
  view: View;
  at: number;
  onAt: (index: number) => void;
  passBand: [number | null, number | null];
}

/** One view over frequency with a marker that is dragged, or moved by the left and right keys. */
export function FrequencyChart({ curves, view, at, onAt, passBand }: Props) {
  const { frequency_hz: frequency } = curves;
  const { frame, chart } = useChart(
    (colour) =>
      frequencyOptions({
        lines: linesOf(curves, view),
        view,
        frequency,
        markerHz: frequency[at] ?? 40,
        passBand,
        colour,
      }),
    [curves, view, at, frequency, passBand],
  );

  const drag = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && event.buttons === 0) return;
    const box = frame.current?.getBoundingClientRect();
    const [hz] = chart.current?.convertFromPixel("grid", [event.clientX - (box?.left ?? 0), 100]) ?? [];
    if (hz === undefined) return;
    onAt(nearestIndex(frequency, hz));
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={`${VIEWS[view].words} over frequency`}
      aria-valuemin={Math.round(frequency[0] ?? 10)}
      aria-valuemax={Math.round(frequency.at(-1) ?? 200)}
      aria-valuenow={Math.round(frequency[at] ?? 0)}
      aria-valuetext={`${plain(frequency[at] ?? 0)} Hz`}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        onAt(Math.min(Math.max(at + by, 0), frequency.length - 1));
      }}
      onPointerDown={drag}
      onPointerMove={drag}
      className="bg-sheet border-rule cursor-ew-resize touch-none border"
    >
      <div ref={frame} className="h-[300px] w-full" />
    </div>
  );
}
