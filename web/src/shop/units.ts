import type { WorkshopSettings } from "../api/client";
import { fixed } from "../ui/format";

/** One foot is 0.3048 m by definition. */
export const FEET_PER_M = 1 / 0.3048;

interface Sized {
  awg: string;
  mm2: string;
}

/** A size with the shop's kind first and the other beside it: both always in view. */
export function sizeWords(size: Sized, shop: WorkshopSettings): [string, string] {
  return shop.sizes === "awg" ? [size.awg, size.mm2] : [size.mm2, size.awg];
}

/** A length with the shop's unit first and the other beside it. */
export function lengthWords(metres: number, shop: WorkshopSettings): [string, string] {
  const [m, ft] = [`${fixed(metres, 1)} m`, `${fixed(metres * FEET_PER_M, 1)} ft`];
  return shop.lengths === "m" ? [m, ft] : [ft, m];
}

/** How a field shows lengths of the file: its unit, and how many of it make a metre. */
export function lengthField(shop: WorkshopSettings): { unit: string; per: number } {
  return shop.lengths === "m" ? { unit: "m", per: 1 } : { unit: "ft", per: FEET_PER_M };
}

/** Several runs of one size, as they are spoken of. */
export function times(runs: number, words: string): string {
  return runs > 1 ? `${runs} × ${words}` : words;
}

/** Money as it is written: two decimals below a hundred, and its currency. */
export function money(amount: number, currency: string): string {
  return `${fixed(amount, amount < 100 ? 2 : 0)} ${currency}`;
}
