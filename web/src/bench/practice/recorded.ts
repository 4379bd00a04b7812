import type { BenchReadout } from "../../api/client";

/** A row of a bench sheet as it is typed into one. */
export type Row = Record<string, string>;
export type Criterion = "thd1" | "clip";

function digits(value: number | null, places: number): string {
  return value === null ? "" : value.toFixed(places);
}

/** What the meters show now, as a row of a sheet; volts before the load are those of the last silence. */
export function recorded(
  shown: BenchReadout,
  criterion: Criterion,
  set: { load_ohm: number; tone_hz: number; clamp_range_a: number; before_v: number | null },
): Row {
  const row: Row = {
    load_ohm: String(set.load_ohm),
    load_kind: "resistive",
    criterion,
    tone_hz: String(set.tone_hz),
    supply_before_v: digits(set.before_v, 2),
    supply_v: digits(shown.volts, 2),
    supply_a: digits(shown.amps, 1),
    power_w: shown.protect ? "" : digits(shown.true_power, 1),
    heatsink_c: digits(shown.sink_temperature, 0),
    protect: shown.protect ? "yes" : "no",
    meter: "practice bench",
    meter_range: shown.amps === null ? "" : String(set.clamp_range_a),
  };
  return Object.fromEntries(Object.entries(row).filter(([, word]) => word !== ""));
}

/** Whether the meters show what a criterion asks for, or what is still missing. */
export function readyFor(criterion: Criterion, shown: BenchReadout): string {
  const thd = shown.distortion ?? 0;
  if (shown.protect) return "";
  if (criterion === "thd1" && thd < 0.8) return "below 1 %: raise the level";
  if (criterion === "thd1" && thd > 1.6) return "beyond 1 %: lower the level";
  if (criterion === "clip" && thd < 3) return "not clipping yet: raise the level";
  return "";
}
