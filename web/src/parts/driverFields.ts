import type { Driver } from "../api/client";
import { full, toNumber } from "../ui/number";

interface DriverField {
  key: keyof Driver;
  words: string;
  unit?: string;
  needed?: boolean;
}

/** A driver's data sheet in the order in which it is usually printed. */
export const DRIVER_FIELDS: readonly DriverField[] = [
  { key: "name", words: "Name", needed: true },
  { key: "size_inch", words: "Nominal size", unit: "in" },
  { key: "coils", words: "Coils" },
  { key: "coil_ohm", words: "Nominal ohms a coil", unit: "Ω" },
  { key: "re_ohm", words: "Resistance of one coil", unit: "Ω", needed: true },
  { key: "fs_hz", words: "Resonance fs", unit: "Hz", needed: true },
  { key: "qms", words: "Qms", needed: true },
  { key: "qes", words: "Qes, all coils", needed: true },
  { key: "vas_l", words: "Vas", unit: "l", needed: true },
  { key: "sd_cm2", words: "Piston area Sd", unit: "cm²", needed: true },
  { key: "xmax_mm", words: "Travel one way", unit: "mm" },
  { key: "le_mh", words: "Inductance, coils in series", unit: "mH" },
  { key: "rated_w", words: "Rated", unit: "W" },
  { key: "qts", words: "Qts, to check", unit: "" },
  { key: "cms_mm_per_n", words: "Compliance, to check", unit: "mm/N" },
  { key: "mms_g", words: "Moving mass, to check", unit: "g" },
  { key: "bl_tm", words: "Force factor, to check", unit: "T·m" },
  { key: "price", words: "Price" },
];

export type Draft = Partial<Record<keyof Driver, string>>;

/** A driver as text; what is merely assumed is left empty. */
export function draftOf(driver: Driver | undefined): Draft {
  if (!driver) return { coils: "1" };
  return Object.fromEntries(
    DRIVER_FIELDS.map(({ key }) => {
      const value = driver[key] as unknown;
      if (value === null || value === undefined) return [key, ""];
      if (typeof value === "object" && "origin" in value) {
        const { value: number, origin } = value as { value: number; origin: string };
        return [key, origin === "assumed" ? "" : full(number)];
      }
      return [key, typeof value === "number" ? full(value) : String(value)];
    }),
  );
}

/** The text read back; a decimal comma is understood, and what is no number is sent for the server to name. */
export function driverOf(draft: Draft, before?: Driver): Driver {
  const typed = DRIVER_FIELDS.flatMap(({ key }): [string, unknown][] => {
    const text = (draft[key] ?? "").trim();
    if (key === "name") return [[key, text]];
    if (text === "") return key === "le_mh" ? [] : [[key, null]];
    const number = toNumber(text);
    return [[key, Number.isFinite(number) ? number : text]];
  });
  const kept = before?.semi_inductance ? { semi_inductance: before.semi_inductance } : {};
  return { ...kept, ...Object.fromEntries(typed) } as Driver;
}
