import { fixed, inUnit, plain } from "../../ui/format";

const MILLI = ["V", "Ω", "Ω/m"];

/** A value of a reading or a parameter with its unit; thousandths where it is small. */
export function shown(value: number, unit: string): string {
  if (MILLI.includes(unit) && Math.abs(value) < (unit === "V" ? 1 : 0.1))
    return `${plain(Number((value * 1000).toPrecision(3)))} m${unit}`;
  if (unit === "°" || unit === "°C") return `${fixed(value, 0)} ${unit}`;
  if (unit === "×") return `${fixed(value, 2)} ×`;
  if (unit === "Ω") return `${fixed(value, 2)} Ω`;
  return unit ? `${inUnit(value, unit)} ${unit}` : plain(Number(value.toPrecision(3)));
}

/** The ends of a band with one unit for both. */
export function band(low: number, high: number, unit: string): string {
  const small = MILLI.includes(unit) && Math.max(Math.abs(low), Math.abs(high)) < (unit === "V" ? 1 : 0.1);
  const scale = small ? 1000 : 1;
  const digits = small ? 0 : unit === "V" || unit === "Ω" ? 2 : unit === "A" ? 1 : 0;
  return `${fixed(low * scale, digits)} to ${fixed(high * scale, digits)} ${small ? "m" : ""}${unit}`;
}
