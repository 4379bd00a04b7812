import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type HeatOut } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FigureInput } from "../../ui/FigureInput";
import { fixed, plain } from "../../ui/format";
import { full, toNumber } from "../../ui/number";
import { Group } from "../Split";

const MINUTES = ["4", "6", "8", "10", "15", "20", "30"];

/** Temperatures of the heat sink over time: what they say of it, and how warm it gets with what plays now. */
export function HeatRunForm({ index }: { index: number }) {
  const { job, forecast, change } = useWork();
  const amplifier = job.amplifiers?.[index];
  const report = forecast?.amplifiers.find((each) => each.id === amplifier?.id);
  const [heat, setHeat] = useState("");
  const [air, setAir] = useState(full(valueOf(job.vehicle.ambient_c) ?? 25));
  const [read, setRead] = useState<Record<string, string>>({});
  const readings = MINUTES.flatMap((minute) => {
    const sink = toNumber(read[minute] ?? "");
    return Number.isNaN(sink) ? [] : [{ seconds: Number(minute) * 60, sink_c: sink }];
  });
  const now = report?.heat_w ?? 0;
  const watts = heat.trim() === "" ? now : toNumber(heat);
  const told = useMutation({
    mutationFn: async () => {
      const trip = valueOf(amplifier?.trip_c ?? null);
      const run = { heat_w: watts, air_c: toNumber(air), readings };
      return data(await api.POST("/api/v1/heat-runs", { body: { run, heat_w: now, trip_c: trip } }));
    },
  });
  const take = (found: HeatOut) => {
    const measured = (value: number, spread: number) => ({
      value: Number(value.toPrecision(4)),
      origin: "measured",
      spread: Number(spread.toPrecision(3)),
    });
    change("amplifiers", [
      ...(job.amplifiers ?? []).map((each, i) =>
        i === index
          ? {
              ...each,
              sink_k_per_w: measured(found.k_per_w, found.k_spread),
              sink_time_s: measured(found.time_s, found.time_spread),
            }
          : each,
      ),
    ]);
  };
  return (
    <Group title="Heat of the amplifier">
      <p className="text-soft max-w-3xl text-sm">
        Let it work at one steady load, and read the sink after some minutes. The heat is watts in less true
        watts out; left empty it is that of the forecast, {fixed(now, 0)} W. ▲ A sink may be hot enough to
        burn.
      </p>
      <div className="my-2 flex flex-wrap items-end gap-3">
        <FigureInput label="Heat, W" value={heat} onChange={setHeat} />
        <FigureInput label="Air, °C" width="w-20" value={air} onChange={setAir} />
        {MINUTES.map((minute) => (
          <FigureInput
            key={minute}
            label={`${minute} min, °C`}
            width="w-20"
            value={read[minute] ?? ""}
            onChange={(text) => setRead({ ...read, [minute]: text })}
          />
        ))}
        <Button
          disabled={readings.length < 3 || !(watts > 0) || told.isPending}
          onClick={() => told.mutate()}
        >
          Work it out
        </Button>
      </div>
      <div className="max-w-sm">
        <QuantityField
          path={`amplifiers.${index}.trip_c`}
          label="Its protection trips at"
          unit="°C"
          empty="unknown"
        />
      </div>
      {told.error && <Complaint>{told.error.message}</Complaint>}
      {told.data && (
        <div className="border-rule mt-2 border-t pt-2" role="status">
          <p>
            <span className="figure">{fixed(told.data.k_per_w, 2)}</span> K/W ±{" "}
            {fixed(196 * told.data.k_spread, 0)} %, time constant{" "}
            <span className="figure">{fixed(told.data.time_s / 60, 0)}</span> min ±{" "}
            {fixed(196 * told.data.time_spread, 0)} %.
          </p>
          <p>
            With what plays now ({fixed(now, 0)} W of heat):{" "}
            {told.data.warmth.map((each) => (
              <span key={each.seconds} className="mr-3 whitespace-nowrap">
                {plain(each.seconds / 60)} min <span className="figure">{fixed(each.sink_c, 0)}</span> ±{" "}
                {fixed(1.96 * each.sigma, 0)} °C
              </span>
            ))}
          </p>
          {told.data.trips_after_min !== null && (
            <p className="text-vermilion">
              ▲ Its protection would trip after {fixed(told.data.trips_after_min, 0)} min.
            </p>
          )}
          <Button strong className="mt-2" onClick={() => take(told.data)}>
            Take it as measured
          </Button>
        </div>
      )}
      {report?.sink_hour_c != null && (
        <p className="mt-2">
          By the forecast the sink is at <span className="figure">{fixed(report.sink_hour_c, 0)}</span> °C
          after an hour of what plays now
          {report.trips_after_min === null
            ? "."
            : `, and its protection trips after ${fixed(report.trips_after_min, 0)} min.`}
        </p>
      )}
    </Group>
  );
}
