import type { BasisChoices, SizeChoice } from "../../api/client";

/** One size as each basis judges it, and whether it is the one that basis would buy. */
export interface SizeRow {
  key: string;
  choices: SizeChoice[];
  picked: boolean[];
}

export interface Wanted {
  conductor: string;
  runs: number;
  kind: "awg" | "mm2";
}

const BEFORE = 2;
const AFTER = 2;
const LEAST = 7;

/** Whether a size is an AWG one: its own name says so. */
export function isAwg(choice: SizeChoice): boolean {
  return choice.size.endsWith("AWG");
}

/**
 * The sizes of one metal, kind and number of runs, from a little below the smallest pick to a little above the
 * largest; the thickest ones where neither basis finds any.
 */
export function rowsAround(bases: readonly BasisChoices[], wanted: Wanted): SizeRow[] {
  const first = bases[0]?.choices ?? [];
  const rows = first.flatMap((choice, i) => {
    const alike =
      choice.conductor === wanted.conductor &&
      choice.runs === wanted.runs &&
      isAwg(choice) === (wanted.kind === "awg");
    if (!alike) return [];
    const choices = bases.flatMap((basis) => basis.choices[i] ?? []);
    return [{ key: `${choice.size} ${i}`, choices, picked: bases.map((basis) => basis.pick === i) }];
  });
  const passing = bases.map((_, s) => rows.findIndex((row) => row.choices[s]?.passes));
  const found = passing.filter((at) => at >= 0);
  if (found.length === 0) return rows.slice(-LEAST);
  const from = Math.max(0, Math.min(...found) - BEFORE);
  const to = Math.max(Math.max(...found) + AFTER + 1, from + LEAST);
  return rows.slice(from, to);
}
