import { CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useMemo, useRef, useState } from "react";

import type { Curve } from "../api/client";
import { fixed, plain, watts } from "../ui/format";
import { CRITERIA } from "./criteria";
import { bandPoints, nearestIndex } from "./wattsCurve";

// ECharts: log axes, an SVG renderer (sheets are to be exported as SVG) and zooming over long series, all of which the
// project needs; loaded only with a chart.
echarts.use([LineChart, ScatterChart, CustomChart, GridComponent, MarkLineComponent, SVGRenderer]);

const TICKS_OHM = [0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8, 16];
const RULES = { voltage: "its voltage", current: "its current", power: "its supply stage" };

/** Watts over load at 14.4 V: fitted curve, band, and the readings on top. Left and right keys read along the curve. */
export function WattsChart({ curves }: { curves: Curve[] }) {
  const frame = useRef<HTMLDivElement>(null);
  const chart = useRef<echarts.ECharts | null>(null);
  const first = curves[0];
  const [at, setAt] = useState(() => (first ? first.load_ohm.length - 1 : 0));
  const load = first?.load_ohm[at];
  const theme = useTheme();

  useEffect(() => {
    if (!frame.current) return;
    const made = echarts.init(frame.current, null, { renderer: "svg" });
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(frame.current);
    made.getZr().on("mousemove", (event: { offsetX: number; offsetY: number }) => {
      const [ohm] = made.convertFromPixel("grid", [event.offsetX, event.offsetY]);
      if (ohm !== undefined && first) setAt(nearestIndex(first.load_ohm, ohm));
    });
    return () => {
      observer.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, [first]);

  const option = useMemo(() => options(curves, load, theme), [curves, load, theme]);
  useEffect(() => chart.current?.setOption(option, { notMerge: true, silent: true }), [option]);

  const move = (by: number) =>
    first && setAt((i) => Math.min(Math.max(i + by, 0), first.load_ohm.length - 1));
  return (
    <figure
      tabIndex={0}
      aria-label="Watts over load at 14.4 V. Left and right keys read along the curve."
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        move(by);
      }}
      className="bg-sheet border-rule border"
    >
      <div ref={frame} className="h-[340px] w-full" />
      <figcaption
        className="border-rule flex flex-wrap gap-x-6 gap-y-1 border-t px-4 py-2"
        aria-live="polite"
      >
        <span className="figure">{load === undefined ? "" : `${plain(load)} Ω`}</span>
        {curves.map((curve) => (
          <Reading key={curve.criterion} curve={curve} load={load} />
        ))}
      </figcaption>
    </figure>
  );
}

function Reading({ curve, load }: { curve: Curve; load: number | undefined }) {
  if (load === undefined) return null;
  const i = nearestIndex(curve.load_ohm, load);
  const { words, colour } = CRITERIA[curve.criterion];
  return (
    <span>
      <span style={{ color: `var(${colour})` }}>{words}</span>{" "}
      <span className="figure">{watts(curve.power_w[i] ?? 0)} W</span>{" "}
      <span className="text-soft text-sm">
        ({watts(curve.low_w[i] ?? 0)}–{watts(curve.high_w[i] ?? 0)}),{" "}
        {RULES[curve.limited_by[i] ?? "voltage"]} rules
      </span>
    </span>
  );
}

/** The theme in force, so that the chart is drawn again in its colours when it changes. */
function useTheme(): string {
  const [theme, setTheme] = useState(document.documentElement.dataset.theme ?? "");
  useEffect(() => {
    const observer = new MutationObserver(() => setTheme(document.documentElement.dataset.theme ?? ""));
    observer.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => observer.disconnect();
  }, []);
  return theme;
}

function options(curves: Curve[], load: number | undefined, theme: string): echarts.EChartsCoreOption {
  const css = getComputedStyle(document.documentElement);
  const colour = (name: string) => css.getPropertyValue(name).trim();
  const loads = curves.flatMap((curve) => curve.load_ohm);
  const axis = {
    type: "log" as const,
    axisLabel: { color: colour("--soft"), fontSize: 13, fontFamily: "inherit" },
    nameTextStyle: { color: colour("--soft"), fontSize: 13 },
    axisLine: { lineStyle: { color: colour("--rule") } },
    minorSplitLine: { show: false },
    splitLine: { lineStyle: { color: colour("--rule"), opacity: 0.6 } },
  };
  return {
    animation: false,
    aria: { enabled: false },
    darkMode: theme === "garage",
    textStyle: { fontFamily: "Atkinson Hyperlegible Next Variable" },
    grid: { left: 64, right: 100, top: 34, bottom: 48 },
    xAxis: {
      ...axis,
      name: "load, Ω",
      nameLocation: "middle",
      nameGap: 30,
      min: Math.min(...loads) * 0.94,
      max: Math.max(...loads) * 1.06,
      axisLabel: { ...axis.axisLabel, customValues: TICKS_OHM, formatter: (ohm: number) => plain(ohm) },
      axisTick: { customValues: TICKS_OHM },
      splitLine: { show: false },
    },
    yAxis: { ...axis, ...wattAxis(curves, axis.axisLabel) },
    series: [
      ...curves.map((curve) => bandSeries(curve, colour(CRITERIA[curve.criterion].colour))),
      ...curves.map((curve, i) =>
        lineSeries(curve, colour(CRITERIA[curve.criterion].colour), i === 0 ? load : undefined),
      ),
      ...curves.map((curve) =>
        readingSeries(curve, colour(CRITERIA[curve.criterion].colour), colour("--sheet")),
      ),
    ],
  };
}

/** Round watts at a third of a decade, over what is drawn. */
function wattAxis(curves: Curve[], label: object) {
  const all = curves.flatMap((curve) => [...curve.low_w, ...curve.high_w]);
  const [low, high] = [Math.min(...all) * 0.92, Math.max(...all) * 1.08];
  const ticks = [10, 20, 50, 100, 150, 200, 300, 400, 600, 800, 1000, 1500, 2000, 3000, 5000].filter(
    (watt) => watt > low && watt < high,
  );
  return {
    name: "watts at 14.4 V",
    nameLocation: "end" as const,
    min: low,
    max: high,
    axisLabel: { ...label, customValues: ticks, formatter: (watt: number) => fixed(watt, 0) },
    axisTick: { customValues: ticks },
  };
}

function bandSeries(curve: Curve, colour: string) {
  const outline = bandPoints(curve);
  return {
    type: "custom",
    silent: true,
    z: 1,
    data: [0],
    renderItem: (_: unknown, api: { coord: (point: [number, number]) => number[] }) => ({
      type: "polygon",
      shape: { points: outline.map((point) => api.coord(point)) },
      style: { fill: colour, opacity: 0.13 },
    }),
  };
}

function lineSeries(curve: Curve, colour: string, load: number | undefined) {
  const { words, dash } = CRITERIA[curve.criterion];
  return {
    type: "line",
    silent: true,
    z: 5,
    showSymbol: false,
    lineStyle: { color: colour, width: 2.2, type: dash },
    data: curve.load_ohm.map((ohm, i) => [ohm, curve.power_w[i]]),
    endLabel: { show: true, formatter: words, color: colour, fontSize: 13, distance: 8 },
    labelLayout: { moveOverlap: "shiftY" },
    markLine:
      load === undefined
        ? undefined
        : {
            silent: true,
            symbol: "none",
            label: { show: false },
            lineStyle: { color: colour, opacity: 0.6 },
            data: [{ xAxis: load }],
          },
  };
}

function readingSeries(curve: Curve, colour: string, paper: string) {
  return {
    type: "scatter",
    silent: true,
    z: 10,
    symbol: CRITERIA[curve.criterion].symbol,
    symbolSize: 9,
    itemStyle: { color: paper, borderColor: colour, borderWidth: 2.2 },
    data: curve.readings.map((reading) => [reading.load_ohm, reading.power_w]),
  };
}
