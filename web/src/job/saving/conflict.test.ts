import { describe, expect, it } from "vitest";

import { differences, merged, pathWords, valueWords } from "./conflict";

const BASE = {
  title: "Estate",
  amplifiers: [{ name: "Bass", load: { volume_l: 40, coil_ohm: { value: 4, origin: "assumed" } } }],
  cables: [{ size: "4 AWG" }],
};
const MINE = {
  ...BASE,
  title: "Van",
  amplifiers: [{ name: "Bass", load: { volume_l: 45, coil_ohm: { value: 4, origin: "assumed" } } }],
};
const THEIRS = {
  ...BASE,
  title: "Truck",
  amplifiers: [{ name: "Bass", load: { volume_l: 40, coil_ohm: { value: 3.6, origin: "measured" } } }],
  cables: [{ size: "4 AWG" }, { size: "8 AWG" }],
};

describe("two people's documents", () => {
  const found = differences(BASE, MINE, THEIRS);

  it("are told apart field by field, each with the side that changed it", () => {
    expect(found.map((each) => [each.path, each.changedBy])).toEqual([
      ["title", null],
      ["amplifiers.0.load.volume_l", "mine"],
      ["amplifiers.0.load.coil_ohm", "theirs"],
      ["cables", "theirs"],
    ]);
    expect(differences(BASE, MINE, MINE)).toEqual([]);
  });

  it("come together: each side's own changes stand, what both changed is mine unless theirs is chosen", () => {
    const both = merged(THEIRS, found, {});
    expect(both).toEqual({
      ...THEIRS,
      title: "Van",
      amplifiers: [{ name: "Bass", load: { volume_l: 45, coil_ohm: { value: 3.6, origin: "measured" } } }],
    });
    expect(merged(THEIRS, found, { title: "theirs", "amplifiers.0.load.volume_l": "theirs" })).toEqual(
      THEIRS,
    );
    const mine = Object.fromEntries(found.map((each) => [each.path, "mine" as const]));
    expect(merged(THEIRS, found, mine)).toEqual(MINE);
  });

  it("are told in words", () => {
    expect(pathWords(BASE, "amplifiers.0.load.volume_l")).toBe("Bass · load · volume l");
    expect(pathWords(BASE, "cables.0.size")).toBe("cables 1 · size");
    expect([valueWords(null), valueWords({ value: 3.6, origin: "measured" }), valueWords([1, 2])]).toEqual([
      "nothing",
      "3.6 (measured)",
      "2 entries",
    ]);
  });
});
