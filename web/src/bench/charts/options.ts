import type * as echarts from "echarts/core";

import { fixed, plain } from "../../ui/format";
import { bandPoints } from "./band";
import { QUANTITIES, type Line, type Quantity } from "./lines";

const TICKS_OHM = [0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8, 16];
const TICKS_WATT = [10, 20, 50, 100, 150, 200, 300, 400, 600, 800, 1000, 1500, 2000, 3000, 4000, 6000];

/** The chart's options from lines to draw and the load that is read; colours by the names of the style sheet. */
export function chartOptions(
  lines: readonly Line[],
  quantity: Quantity,
  load: number | undefined,
  colour: (name: string) => string,
): echarts.EChartsCoreOption {
  const loads = lines.filter((line) => !line.thin).flatMap((line) => line.load);
  const axis = {
    axisLabel: { color: colour("--soft"), fontSize: 13, fontFamily: "inherit" },
    nameTextStyle: { color: colour("--soft"), fontSize: 13 },
    axisLine: { lineStyle: { color: colour("--rule") } },
    minorSplitLine: { show: false },
    splitLine: { lineStyle: { color: colour("--rule"), opacity: 0.6 } },
  };
  return {
    animation: false,
    aria: { enabled: false },
    textStyle: { fontFamily: "Atkinson Hyperlegible Next Variable" },
    grid: { left: 64, right: 130, top: 34, bottom: 48 },
    xAxis: {
      ...axis,
      type: "log",
      name: "load, Ω",
      nameLocation: "middle",
      nameGap: 30,
      min: Math.min(...loads) * 0.94,
      max: Math.max(...loads) * 1.06,
      axisLabel: { ...axis.axisLabel, customValues: TICKS_OHM, formatter: (ohm: number) => plain(ohm) },
      axisTick: { customValues: TICKS_OHM },
      splitLine: { show: false },
    },
    yAxis: { ...axis, ...valueAxis(lines, quantity, axis.axisLabel) },
    series: [
      ...lines.filter((line) => line.low.length > 0).map((line) => band(line, colour(line.colour))),
      ...lines.map((line, i) => curve(line, colour(line.colour), i === lines.length - 1 ? load : undefined)),
      ...lines.map((line) => readings(line, colour(line.colour), colour("--sheet"))),
    ],
  };
}

/** Watts on round values of a log axis; the rest on a plain one. */
function valueAxis(lines: readonly Line[], quantity: Quantity, label: object) {
  const { axis, log } = QUANTITIES[quantity];
  const all = lines.flatMap((line) => [
    ...line.low,
    ...line.high,
    ...line.points.map(([, v]) => v),
    ...line.value,
  ]);
  const name = { name: axis, nameLocation: "end" as const };
  if (!log) return { ...name, type: "value" as const, scale: quantity === "supply_v" };
  const [low, high] = [Math.min(...all) * 0.92, Math.max(...all) * 1.08];
  const ticks = TICKS_WATT.filter((watt) => watt > low && watt < high);
  return {
    ...name,
    type: "log" as const,
    min: low,
    max: high,
    axisLabel: { ...label, customValues: ticks, formatter: (watt: number) => fixed(watt, 0) },
    axisTick: { customValues: ticks },
  };
}

function band(line: Line, colour: string) {
  const outline = bandPoints(line.load, line.low, line.high);
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

function curve(line: Line, colour: string, load: number | undefined) {
  return {
    type: "line",
    silent: true,
    z: line.thin ? 3 : 5,
    showSymbol: false,
    lineStyle: { color: colour, width: line.thin ? 1.2 : 2.2, type: line.dash },
    data: line.load.map((ohm, i) => [ohm, line.value[i]]),
    endLabel: {
      show: true,
      formatter: line.name,
      color: colour,
      fontSize: 13,
      distance: 8,
      offset: line.thin ? [0, -9] : [0, 0],
    },
    labelLayout: { moveOverlap: "shiftY" },
    markLine: load === undefined ? undefined : marker(load, colour),
  };
}

function marker(load: number, colour: string) {
  return {
    silent: true,
    symbol: "none",
    label: { show: false },
    lineStyle: { color: colour, opacity: 0.6 },
    data: [{ xAxis: load }],
  };
}

function readings(line: Line, colour: string, paper: string) {
  return {
    type: "scatter",
    silent: true,
    z: 10,
    symbol: line.symbol,
    symbolSize: 9,
    itemStyle: { color: paper, borderColor: colour, borderWidth: 2.2 },
    data: line.points,
  };
}
