import { getAt, setAt } from "../api/quantity";
import { same } from "../api/same";

export type Side = "mine" | "theirs";

/** The side that alone changed what stands at a path; null where both did, or where nobody knows what both began from. */
export function changedBy(path: string, base: unknown, mine: unknown, theirs: unknown): Side | null {
  if (base === null) return null;
  const was = getAt(base, path);
  if (same(was, getAt(theirs, path))) return "mine";
  return same(was, getAt(mine, path)) ? "theirs" : null;
}

/** Their document with my values at the paths where mine were chosen. */
export function merged<T>(mine: T, theirs: T, chosen: Record<string, Side>): T {
  return Object.entries(chosen).reduce(
    (done, [path, side]) => (side === "mine" ? setAt(done, path, getAt(mine, path)) : done),
    theirs,
  );
}
