import type { Asked } from "../../api/client";
import { newKey } from "./newKey";
import { readNumber, toNumber } from "../../ui/number";
import type { Log, Waiting } from "./log";

const CLAMPED = ["amps", "output_a"];
const VOLTS = ["volts", "drop", "resting_v", "output_v", "coil_ohm"];

/** A reading as it is taken now: with its meter, who read it and when. */
export function taken(
  log: Log,
  asked: Asked,
  value: string,
  usualRange: number | null,
  more: Partial<Waiting> = {},
): Waiting {
  const clamped = CLAMPED.includes(asked.what);
  const range = clamped ? toNumber(log.clampRange) : NaN;
  return {
    key: newKey(),
    asked,
    value: value.trim(),
    meter: clamped ? log.clamp.trim() : VOLTS.includes(asked.what) ? log.volts.trim() : "",
    meter_range: Number.isFinite(range) && range > 0 ? range : clamped ? null : usualRange,
    by: log.by.trim(),
    note: "",
    excluded: false,
    taken_at: new Date().toISOString(),
    replaces: null,
    refused: "",
    ...more,
  };
}

/** What was typed beside a unit, as the log has it: a plain number of millivolts says so; "132m" says it already. */
export function asTyped(text: string, unit: string): string {
  return unit === "mV" && "number" in readNumber(text) ? `${text.trim().replace(",", ".")}m` : text;
}
