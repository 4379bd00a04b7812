import { signed } from "./writing";

const MINUS = "−";

/** A number with fixed decimals, a true minus sign, and no minus zero. */
export function fixed(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  if (Number(text) === 0) return signed((0).toFixed(decimals));
  return signed(text).replace("-", MINUS);
}

/** Watts as a meter would show them, no finer than a band of ± `half` allows. */
export const watts = (value: number, half = 0) => inUnit(value, "W", half);

/** Amps: one decimal below ten, none above a hundred matters. */
export const amps = (value: number, half = 0) => inUnit(value, "A", half);

/** Four significant digits at most, for inputs and sums; all of a whole number. */
export function plain(value: number): string {
  if (value === 0 || !Number.isFinite(value)) return String(value + 0);
  const digits = Math.min(20, Math.max(0, 3 - Math.floor(Math.log10(Math.abs(value)))));
  const text = value.toFixed(digits);
  return signed(text.includes(".") ? text.replace(/0+$/, "").replace(/\.$/, "") : text).replace("-", MINUS);
}

/** A whole number with its digits in threes. */
export function whole(value: number): string {
  return fixed(value, 0).replace(/\B(?=(\d{3})+$)/g, "\u202f");
}

const TWO_DIGITS_BELOW = 3.55;

/** The step to which a value with a band of ± `half` is rounded, as the core does it (see `number_format.py`). */
function stepOf(half: number): number {
  if (!(half > 0 && Number.isFinite(half))) return 0;
  const power = Math.floor(Math.log10(half));
  return 10 ** (half / 10 ** power < TWO_DIGITS_BELOW ? power - 1 : power);
}

/** The usual decimals of a unit; null where a value has four significant digits. */
function decimalsOf(value: number, unit: string): number | null {
  switch (unit) {
    case "V":
      return 2;
    case "W":
    case "VA":
    case "A":
      return Math.abs(value) < 10 ? 1 : 0;
    case "dB":
      return 1;
    default:
      return unit.endsWith("/W") ? 3 : null;
  }
}

/** A value as it is printed before its unit, no finer than a band of ± `half` in that unit allows. */
export function inUnit(value: number, unit: string, half = 0): string {
  const decimals = decimalsOf(value, unit);
  const step = stepOf(half);
  if (decimals === null && step === 0) return plain(value);
  const coarse = Math.max(step, decimals === null ? step : 10 ** -decimals);
  const power = Math.round(Math.log10(coarse));
  return power <= 0 ? fixed(value, -power) : fixed(Math.round(value / coarse) * coarse, 0);
}

/** Half of the band of a figure; 0 where it has none. */
export function halfBand({ low, high }: { low: number | null; high: number | null }): number {
  return low === null || high === null ? 0 : Math.abs(high - low) / 2;
}

/** A figure of the core as it is printed, before its unit. */
export function figureText({ printed }: { printed: string }): string {
  return signed(printed);
}

/** Thousandths where a unit is too large for what is shown: ohms below one tenth become milliohms. */
export function readable(value: number, unit: string, half = 0): [string, string] {
  if ((unit === "Ω" || unit === "Ω/m") && Math.abs(value) < 0.1) return [plain(value * 1000), `m${unit}`];
  if (unit === "V" && Math.abs(value) < 1) return [fixed(value, 3), unit];
  return [inUnit(value, unit, half), unit];
}
