const MINUS = "−";

/** A number with fixed decimals, a true minus sign, and no minus zero. */
export function fixed(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  if (Number(text) === 0) return (0).toFixed(decimals);
  return text.replace("-", MINUS);
}

/** Watts as a meter would show them. */
export function watts(value: number): string {
  return fixed(value, Math.abs(value) < 10 ? 1 : 0);
}

/** Amps: one decimal below ten, none above a hundred matters. */
export function amps(value: number): string {
  return fixed(value, Math.abs(value) < 10 ? 1 : 0);
}

/** Four significant digits at most, for inputs and sums. */
export function plain(value: number): string {
  return String(Number(value.toPrecision(4))).replace("-", MINUS);
}

/** A figure of the forecast by its unit. */
export function inUnit(value: number, unit: string): string {
  switch (unit) {
    case "V":
      return fixed(value, 2);
    case "W":
    case "VA":
      return watts(value);
    case "A":
      return amps(value);
    case "dB":
      return fixed(value, 1);
    default:
      return unit.endsWith("/W") ? fixed(value, 3) : plain(value);
  }
}

/** Thousandths where a unit is too large for what is shown: ohms below one tenth become milliohms. */
export function readable(value: number, unit: string): [string, string] {
  if ((unit === "Ω" || unit === "Ω/m") && Math.abs(value) < 0.1) return [plain(value * 1000), `m${unit}`];
  if (unit === "V" && Math.abs(value) < 1) return [fixed(value, 3), unit];
  return [inUnit(value, unit), unit];
}
