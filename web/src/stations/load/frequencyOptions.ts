import type * as echarts from "echarts/core";

import { fixed, plain } from "../../ui/format";
import { VIEWS, type FrequencyLine, type View } from "./frequency";

const TICKS_HZ = [10, 15, 20, 30, 40, 50, 60, 80, 100, 150, 200];

interface Drawn {
  lines: readonly FrequencyLine[];
  view: View;
  frequency: readonly number[];
  markerHz: number;
  passBand: [number | null, number | null];
  colour: (name: string) => string;
}

/** The chart's options: lines over a log axis of hertz, the pass band left clear, the marker as a line. */
export function frequencyOptions({
  lines,
  view,
  frequency,
  markerHz,
  passBand,
  colour,
}: Drawn): echarts.EChartsCoreOption {
  const label = { color: colour("--soft"), fontSize: 13, fontFamily: "inherit" };
  const axis = {
    axisLabel: label,
    nameTextStyle: { color: colour("--soft"), fontSize: 13 },
    axisLine: { lineStyle: { color: colour("--rule") } },
    splitLine: { lineStyle: { color: colour("--rule"), opacity: 0.6 } },
  };
  const { left, right } = VIEWS[view];
  const [low, high] = [frequency[0] ?? 10, frequency.at(-1) ?? 200];
  return {
    animation: false,
    aria: { enabled: false },
    textStyle: { fontFamily: "Atkinson Hyperlegible Next Variable" },
    grid: { left: 58, right: right === "" ? 112 : 104, top: 34, bottom: 46 },
    xAxis: {
      ...axis,
      type: "log",
      name: "Hz",
      nameLocation: "middle",
      nameGap: 28,
      min: low,
      max: high,
      axisLabel: { ...label, customValues: TICKS_HZ, formatter: (hz: number) => plain(hz) },
      axisTick: { customValues: TICKS_HZ },
      splitLine: { show: false },
      minorSplitLine: { show: false },
    },
    yAxis: [
      { ...axis, type: "value", name: left, scale: view === "level", min: view === "level" ? undefined : 0 },
      {
        ...axis,
        type: "value",
        name: right,
        show: right !== "",
        min: -90,
        max: 90,
        interval: 45,
        axisLabel: { ...label, formatter: (degrees: number) => fixed(degrees, 0) },
        splitLine: { show: false },
      },
    ],
    series: lines.flatMap((line, i) => [
      {
        type: "line",
        silent: true,
        showSymbol: false,
        yAxisIndex: line.right ? 1 : 0,
        z: 5,
        lineStyle: { color: colour(line.colour), width: 2.2, type: line.dash },
        data: frequency.map((hz, n) => [hz, line.value[n]]),
        endLabel: {
          show: true,
          formatter: line.name,
          color: colour(line.colour),
          fontSize: 13,
          distance: right === "" ? 8 : 38,
        },
        labelLayout: { moveOverlap: "shiftY" },
        ...(i === 0
          ? { markLine: marker(markerHz, colour), markArea: outside(passBand, [low, high], colour) }
          : {}),
      },
      ...(line.points?.length
        ? [
            {
              type: "scatter",
              silent: true,
              z: 10,
              symbolSize: line.points.length > 60 ? 3 : 7,
              itemStyle: { color: colour("--sheet"), borderColor: colour(line.colour), borderWidth: 1.6 },
              data: line.points.filter(([hz]) => hz >= low && hz <= high),
            },
          ]
        : []),
    ]),
  };
}

function marker(hz: number, colour: (name: string) => string) {
  return {
    silent: true,
    symbol: "none",
    label: { show: false },
    lineStyle: { color: colour("--ink"), width: 1.5, opacity: 0.8 },
    data: [{ xAxis: hz }],
  };
}

/** What the filters keep out, shaded; nothing without filters. */
function outside(
  [highPass, lowPass]: [number | null, number | null],
  [low, high]: [number, number],
  colour: (name: string) => string,
) {
  const data = [];
  if (highPass !== null && highPass > low) data.push([{ xAxis: low }, { xAxis: Math.min(highPass, high) }]);
  if (lowPass !== null && lowPass < high) data.push([{ xAxis: Math.max(lowPass, low) }, { xAxis: high }]);
  return { silent: true, itemStyle: { color: colour("--sunk"), opacity: 0.8 }, data };
}
