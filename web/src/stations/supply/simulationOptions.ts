import type * as echarts from "echarts/core";

import type { Forecast, SimulationResult } from "../../api/client";
import { fixed } from "../../ui/format";

type Series = SimulationResult["series"];

/** Volts at the front and at the amplifier over time, lowest and mean of each stretch, with the worry and act lines. */
export function simulationOptions(
  series: Series,
  at: number,
  colour: (name: string) => string,
  lines?: Forecast["terminal_lines"],
): echarts.EChartsCoreOption {
  const label = { color: colour("--soft"), fontSize: 13, fontFamily: "inherit" };
  const lows = [...series.terminal_low_v, ...series.front_low_v];
  const [low, high] = [
    Math.min(...lows, lines?.act_v ?? Infinity),
    Math.max(...series.front_v, lines?.caution_v ?? 0),
  ];
  const line = (
    name: string,
    of: readonly number[],
    tone: string,
    dash: "solid" | number[],
    width: number,
  ) => ({
    type: "line",
    name,
    silent: true,
    showSymbol: false,
    lineStyle: { color: colour(tone), width, type: dash },
    data: series.time_s.map((time, i) => [time, of[i] ?? 0]),
  });
  return {
    animation: false,
    aria: { enabled: false },
    textStyle: { fontFamily: "Atkinson Hyperlegible Next Variable" },
    grid: { left: 52, right: 24, top: 30, bottom: 74 },
    dataZoom: [
      { type: "inside", filterMode: "none" },
      { type: "slider", height: 22, bottom: 8, filterMode: "none", ...slider(colour) },
    ],
    xAxis: {
      type: "value",
      name: "s",
      nameLocation: "middle",
      nameGap: 24,
      min: 0,
      max: Math.ceil(series.time_s.at(-1) ?? 1),
      axisLabel: label,
      splitLine: { show: false },
    },
    yAxis: [
      {
        type: "value",
        name: "volts",
        min: Math.floor(low * 2 - 0.2) / 2,
        max: Math.ceil(high * 2 + 0.2) / 2,
        axisLabel: { ...label, formatter: (volt: number) => fixed(volt, 1) },
        nameTextStyle: { color: colour("--soft"), fontSize: 13 },
        splitLine: { lineStyle: { color: colour("--rule"), opacity: 0.6 } },
      },
    ],
    series: [
      {
        ...line("amplifier, lowest", series.terminal_low_v, "--teal", "solid", 2),
        markLine: {
          silent: true,
          symbol: "none",
          label: {
            show: true,
            position: "insideStartTop",
            color: colour("--soft"),
            fontSize: 12,
            formatter: "{b}",
          },
          data: [
            ...(lines
              ? [
                  limit("caution", lines.caution_v, colour("--ochre")),
                  limit("act", lines.act_v, colour("--vermilion")),
                ]
              : []),
            {
              xAxis: series.time_s[at] ?? 0,
              name: "",
              lineStyle: { color: colour("--ink"), type: "solid" },
              label: { show: false },
            },
          ],
        },
      },
      line("front, lowest", series.front_low_v, "--copper", "solid", 1.6),
      line("amplifier, mean", series.terminal_v, "--soft", [4, 4], 1.2),
    ],
  };
}

/** A voltage below which something is to be done, as the forecast has it. */
function limit(words: string, volts: number, color: string) {
  return { yAxis: volts, name: `${words} ${fixed(volts, 1)} V`, lineStyle: { color, type: [4, 4] } };
}

/** The handle to zoom with, in the colours of the page. */
function slider(colour: (name: string) => string) {
  return {
    textStyle: { color: colour("--soft") },
    borderColor: colour("--rule"),
    backgroundColor: colour("--sheet"),
    fillerColor: "transparent",
    dataBackground: {
      lineStyle: { color: colour("--rule") },
      areaStyle: { color: colour("--sunk") },
    },
    selectedDataBackground: {
      lineStyle: { color: colour("--teal") },
      areaStyle: { color: colour("--sunk") },
    },
    handleStyle: { color: colour("--sheet"), borderColor: colour("--ink") },
    moveHandleStyle: { color: colour("--rule") },
    emphasis: {
      handleStyle: { borderColor: colour("--teal") },
      moveHandleStyle: { color: colour("--soft") },
    },
  };
}
