import type { CableResult } from "../../api/client";

export const CONDUCTORS = [
  ["copper", "copper"],
  ["cca15", "copper-clad aluminium, 15 %"],
  ["cca10", "copper-clad aluminium, 10 %"],
  ["aluminium", "aluminium"],
] as const;

/** How many cables lie between a cable and where the current comes from; the list is in the order of the current. */
export function depths(cables: readonly Pick<CableResult, "start" | "end">[]): number[] {
  const reached = new Map<string, number>();
  return cables.map(({ start, end }) => {
    const from = reached.has(start) || !reached.has(end) ? start : end;
    const to = from === start ? end : start;
    const depth = reached.get(from) ?? 0;
    reached.set(from, depth);
    reached.set(to, depth + 1);
    return depth;
  });
}

/** The fuses of a cable at one end: as fitted, as advised, or what is wrong. */
export function fuseWords(fitted: number | null, needed: boolean, advised: number | null): string {
  if (fitted !== null) return `${fitted} A`;
  if (!needed) return "–";
  return advised === null ? "none fits" : `${advised} A advised`;
}

/** The cautions of all rows, each once, in the order in which they come up. */
export function numbered(rows: readonly { cautions: string[] }[]): string[] {
  return [...new Set(rows.flatMap((row) => row.cautions))];
}
