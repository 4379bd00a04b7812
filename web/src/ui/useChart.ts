import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { type DependencyList, useEffect, useRef } from "react";

import { useTheme } from "./useTheme";

// ECharts: log axes, an SVG renderer (charts are saved as SVG) and zooming over long series, all of which the project
// needs; loaded only with a chart. What else a chart needs it registers itself.
echarts.use([SVGRenderer]);

type Options = Parameters<echarts.ECharts["setOption"]>[0];

/**
 * A chart in a frame, as large as the frame, drawn anew when `inputs` or the theme change. The options get a function
 * that names a colour of the theme.
 */
export function useChart(
  options: (colour: (name: string) => string) => Options,
  inputs: DependencyList,
  notMerge = true,
) {
  const frame = useRef<HTMLDivElement>(null);
  const chart = useRef<echarts.ECharts | null>(null);
  const theme = useTheme();
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
    chart.current?.setOption(
      options((name) => css.getPropertyValue(name).trim()),
      { notMerge, silent: true },
    );
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the caller says what the options depend on
  }, [...inputs, theme]);
  return { frame, chart };
}
