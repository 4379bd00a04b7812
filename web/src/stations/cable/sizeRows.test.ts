import { describe, expect, it } from "vitest";

import type { BasisChoices, SizeChoice } from "../../api/client";
import { rowsAround } from "./sizeRows";

const AWG = ["10 AWG", "8 AWG", "6 AWG", "4 AWG", "2 AWG", "1 AWG", "1/0 AWG", "2/0 AWG"];
const SIZES = [...AWG, "16 mm²", "25 mm²"];

/** One basis that lets every size pass from the named one on. */
function basis(from: string | null): BasisChoices {
  const at = from === null ? Infinity : SIZES.indexOf(from);
  const choices = (["copper", "cca15"] as const).flatMap((conductor) =>
    SIZES.map((size, i) => ({ size, conductor, runs: 1, passes: i >= at }) as SizeChoice),
  );
  return { choices, pick: from === null ? null : at } as BasisChoices;
}
const wanted = { conductor: "copper", runs: 1, kind: "awg" as const };

describe("the sizes in view", () => {
  it("reach from below the smaller basis's pick to above the larger one's", () => {
    const rows = rowsAround([basis("1/0 AWG"), basis("6 AWG")], wanted);
    expect(rows.map((row) => row.choices[0]?.size)).toEqual(AWG);
    expect(rows.filter((row) => row.picked.some(Boolean)).map((row) => row.choices[0]?.size)).toEqual([
      "6 AWG",
      "1/0 AWG",
    ]);
  });

  it("hold one choice for each basis, of the same size", () => {
    for (const row of rowsAround([basis("4 AWG"), basis("8 AWG")], wanted))
      expect(new Set(row.choices.map((choice) => `${choice.size} ${choice.conductor}`)).size).toBe(1);
  });

  it("are of the metal and kind that is asked for", () => {
    const rows = rowsAround([basis("6 AWG")], { conductor: "cca15", runs: 1, kind: "mm2" });
    expect(rows.map((row) => row.choices[0]?.size)).toEqual(["16 mm²", "25 mm²"]);
    expect(rowsAround([basis("6 AWG")], { ...wanted, runs: 3 })).toEqual([]);
  });

  it("are the thickest there are where nothing passes", () => {
    const rows = rowsAround([basis(null), basis(null)], wanted);
    expect(rows.at(-1)?.choices[0]?.size).toBe("2/0 AWG");
    expect(rows.length).toBe(7);
  });
});
