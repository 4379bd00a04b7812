import { LineChart } from "echarts/charts";
import { DataZoomComponent, GridComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { useState } from "react";

import type { Forecast, SimulationResult } from "../../api/client";
import { fixed } from "../../ui/format";
import { useChart } from "../../ui/useChart";
import { simulationOptions } from "./simulationOptions";

echarts.use([LineChart, GridComponent, MarkLineComponent, DataZoomComponent]);

interface Props {
  series: SimulationResult["series"];
  lines: Forecast["terminal_lines"] | undefined;
}

/** A simulation's volts over time: wheel or handles zoom, dragging pans, left and right keys read along it. */
export function SimulationChart({ series, lines }: Props) {
  const last = series.time_s.length - 1;
  const [reading, setReading] = useState(0);
  const at = Math.min(reading, last);
  const { frame } = useChart(
    (colour) => simulationOptions(series, at, colour, lines),
    [series, at, lines],
    false,
  );
  return (
    <figure
      tabIndex={0}
      aria-label="Volts over time. Left and right keys read along them."
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -30, PageUp: 30 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        setReading(Math.min(Math.max(at + by, 0), last));
      }}
      className="bg-sheet border-rule border"
    >
      <p className="flex gap-6 px-4 pt-1.5 text-sm">
        <span className="text-teal">━ amplifier, lowest</span>
        <span className="text-copper">━ front battery, lowest</span>
        <span className="text-soft">┅ amplifier, mean</span>
      </p>
      <div ref={frame} className="h-[280px] w-full" />
      <figcaption
        aria-live="polite"
        className="border-rule flex flex-wrap gap-x-6 border-t px-4 py-1.5 text-sm"
      >
        <span className="figure">{fixed(series.time_s[at] ?? 0, 1)} s</span>
        <span>
          front <span className="figure">{fixed(series.front_low_v[at] ?? 0, 2)} V</span>
        </span>
        <span>
          amplifier <span className="figure">{fixed(series.terminal_low_v[at] ?? 0, 2)} V</span>
        </span>
        <span>
          charger <span className="figure">{fixed(series.charger_a[at] ?? 0, 0)} A</span>, battery{" "}
          {(series.bank_a[at] ?? 0) < 0 ? "takes" : "gives"}{" "}
          <span className="figure">{fixed(Math.abs(series.bank_a[at] ?? 0), 0)} A</span>
        </span>
        <span>
          charge <span className="figure">{fixed((series.charge[at] ?? 0) * 100, 1)} %</span>
        </span>
      </figcaption>
    </figure>
  );
}
