import { setAt } from "../../api/quantity";
import { same } from "../../api/same";

export type Side = "mine" | "theirs";

/** A field that two people left with different values; `base` is what both began from. */
export interface Difference {
  path: string;
  base: unknown;
  mine: unknown;
  theirs: unknown;
  /** The side that alone changed it; null where both did. */
  changedBy: Side | null;
}

/** Every field in which two documents differ, as deep as their lists have the same length. */
export function differences(base: unknown, mine: unknown, theirs: unknown, path = ""): Difference[] {
  if (same(mine, theirs)) return [];
  const inside = keysOf(mine, theirs);
  if (inside === null) {
    const changedBy = same(base, theirs) ? "mine" : same(base, mine) ? "theirs" : null;
    return [{ path, base, mine, theirs, changedBy }];
  }
  return inside.flatMap((key) =>
    differences(at(base, key), at(mine, key), at(theirs, key), path === "" ? key : `${path}.${key}`),
  );
}

/** Their document with my values where they were chosen. */
export function merged<T>(theirs: T, found: Difference[], chosen: Record<string, Side>): T {
  return found.reduce(
    (done, each) => (sideOf(each, chosen) === "mine" ? setAt(done, each.path, each.mine) : done),
    theirs,
  );
}

/** Which side stands: what was chosen, else the one that alone changed it, else mine. */
export function sideOf({ path, changedBy }: Difference, chosen: Record<string, Side>): Side {
  return chosen[path] ?? changedBy ?? "mine";
}

/** "amplifiers.0.load.box.volume_l" as "Bass · load · box · volume l", by the names in the document. */
export function pathWords(document: unknown, path: string): string {
  const words: string[] = [];
  let here: unknown = document;
  for (const key of path.split(".")) {
    here = at(here, key);
    const name = at(here, "name");
    if (/^\d+$/.test(key))
      words[words.length - 1] =
        typeof name === "string" && name ? name : `${words.at(-1)} ${Number(key) + 1}`;
    else words.push(key.replaceAll("_", " "));
  }
  return words.join(" · ");
}

/** A value as a person reads it. */
export function valueWords(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  if (Array.isArray(value)) return value.length === 1 ? "1 entry" : `${value.length} entries`;
  if (typeof value !== "object") return String(value);
  const quantity = at(value, "value");
  if (quantity !== undefined) return `${valueWords(quantity)} (${valueWords(at(value, "origin"))})`;
  return valueWords(at(value, "name")) === "nothing" ? "given" : valueWords(at(value, "name"));
}

function at(document: unknown, key: string): unknown {
  return typeof document === "object" && document !== null
    ? (document as Record<string, unknown>)[key]
    : undefined;
}

/** The fields of two things that can be told apart field by field; null where only all of it can be taken. */
function keysOf(a: unknown, b: unknown): string[] | null {
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return null;
  if ("value" in a && "origin" in a) return null;
  if (Array.isArray(a) || Array.isArray(b)) {
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length ? Object.keys(a) : null;
  }
  return [...new Set([...Object.keys(a), ...Object.keys(b)])];
}
