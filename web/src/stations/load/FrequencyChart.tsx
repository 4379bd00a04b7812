import { LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, MarkAreaComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";

import type { LoadCurvesOut } from "../../api/client";
import { plain } from "../../ui/format";
import { useTheme } from "../../ui/useTheme";
import { linesOf, VIEWS, type View } from "./frequency";
import { frequencyOptions } from "./frequencyOptions";

echarts.use([LineChart, ScatterChart, GridComponent, MarkLineComponent, MarkAreaComponent, SVGRenderer]);

interface Props {
  curves: LoadCurvesOut["curves"];
  view: View;
  at: number;
  onAt: (index: number) => void;
  passBand: [number | null, number | null];
}

/** One view over frequency with a marker that is dragged, or moved by the left and right keys. */
export function FrequencyChart({ curves, view, at, onAt, passBand }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const chart = useRef<echarts.ECharts | null>(null);
  const theme = useTheme();
  const { frequency_hz: frequency } = curves;

  useEffect(() => {
    if (!frame.current) return;
    const made = echarts.init(frame.current, null, { renderer: "svg" });
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(frame.current);
    return () => {
      observer.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    const css = getComputedStyle(document.documentElement);
    const colour = (name: string) => css.getPropertyValue(name).trim();
    const markerHz = frequency[at] ?? 40;
    const options = frequencyOptions({
      lines: linesOf(curves, view),
      view,
      frequency,
      markerHz,
      passBand,
      colour,
    });
    chart.current?.setOption(options, { notMerge: true, silent: true });
  }, [curves, view, at, frequency, passBand, theme]);

  const drag = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && event.buttons === 0) return;
    const box = frame.current?.getBoundingClientRect();
    const [hz] = chart.current?.convertFromPixel("grid", [event.clientX - (box?.left ?? 0), 100]) ?? [];
    if (hz === undefined) return;
    let best = 0;
    frequency.forEach((each, i) => {
      if (Math.abs(Math.log(each / hz)) < Math.abs(Math.log((frequency[best] ?? each) / hz))) best = i;
    });
    onAt(best);
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
