import { LineChart, ScatterChart } from "echarts/charts";
import { GridComponent } from "echarts/components";
import * as echarts from "echarts/core";

import type { SweepResult } from "../../api/client";
import { useChart } from "../../ui/useChart";

echarts.use([LineChart, ScatterChart, GridComponent]);

/** True watts out and watts in as read, over the forecast's lines; efficiency below. */
export function SweepChart({ result }: { result: SweepResult }) {
  const { frame } = useChart(
    (colour) => {
      const level = result.over === "level";
      const x = result.points.map((each) => (level ? each.level_db : each.frequency_hz));
      const axis = {
        axisLabel: { color: colour("--soft"), fontSize: 13 },
        nameTextStyle: { color: colour("--soft"), fontSize: 13 },
        axisLine: { lineStyle: { color: colour("--rule") } },
        splitLine: { lineStyle: { color: colour("--rule"), opacity: 0.6 } },
      };
      const across = { ...axis, type: level ? ("value" as const) : ("log" as const), scale: true };
      const [least, most] = [Math.min(...x), Math.max(...x)];
      const bounds = { min: least, max: most };
      const line = (name: string, values: (number | null)[], at: string, grid: number) => ({
        type: "line" as const,
        xAxisIndex: grid,
        yAxisIndex: grid,
        silent: true,
        showSymbol: false,
        lineStyle: { color: colour(at), width: 2 },
        endLabel: { show: true, formatter: name, color: colour(at), fontSize: 13 },
        data: x.map((one, i) => [one, values[i]]),
      });
      const dots = (values: number[], at: string, grid: number) => ({
        type: "scatter" as const,
        xAxisIndex: grid,
        yAxisIndex: grid,
        silent: true,
        symbolSize: 9,
        itemStyle: { color: colour("--sheet"), borderColor: colour(at), borderWidth: 2.2 },
        data: x.map((one, i) => [one, values[i]]),
      });
      const points = result.points;
      return {
        animation: false,
        textStyle: { fontFamily: "Atkinson Hyperlegible Next Variable" },
        grid: [
          { left: 64, right: 110, top: 30, height: 170 },
          { left: 64, right: 110, top: 250, height: 80 },
        ],
        xAxis: [
          { ...across, ...bounds, gridIndex: 0, axisLabel: { show: false } },
          {
            ...across,
            ...bounds,
            gridIndex: 1,
            name: level ? "level, dB" : "frequency, Hz",
            nameLocation: "middle" as const,
            nameGap: 28,
          },
        ],
        yAxis: [
          { ...axis, gridIndex: 0, name: "W", type: "value" as const },
          { ...axis, gridIndex: 1, name: "efficiency, %", type: "value" as const, min: 0, max: 100 },
        ],
        series: [
          line(
            "taken in",
            points.map((each) => each.forecast_input_w),
            "--copper",
            0,
          ),
          line(
            "delivered",
            points.map((each) => each.forecast_output_w),
            "--teal",
            0,
          ),
          dots(
            points.map((each) => each.input_w),
            "--copper",
            0,
          ),
          dots(
            points.map((each) => each.output_w),
            "--teal",
            0,
          ),
          line(
            "forecast",
            points.map((each) => (each.forecast_efficiency === null ? null : 100 * each.forecast_efficiency)),
            "--soft",
            1,
          ),
          dots(
            points.map((each) => 100 * each.efficiency),
            "--soft",
            1,
          ),
        ],
      };
    },
    [result],
  );
  return (
    <div className="bg-sheet border-rule mb-3 max-w-3xl border">
      <div
        ref={frame}
        className="h-[390px] w-full"
        role="img"
        aria-label="The sweep over the forecast; its figures are in the table below"
      />
    </div>
  );
}
