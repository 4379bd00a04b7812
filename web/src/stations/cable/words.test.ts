import { describe, expect, it } from "vitest";

import { depths, fuseWords, numbered } from "./words";

describe("the tree as a list", () => {
  it("is indented by how many cables come before, whichever way a cable was drawn", () => {
    const cables = [
      { start: "charger", end: "front" },
      { start: "rear", end: "front" },
      { start: "rear", end: "amp:a1" },
      { start: "front", end: "amp:a2" },
    ];
    expect(depths(cables)).toEqual([0, 1, 2, 1]);
  });
});

describe("a fuse in words", () => {
  it("says whether it is fitted, advised, not needed, or cannot be had", () => {
    expect([
      fuseWords(150, true, 125),
      fuseWords(null, true, 125),
      fuseWords(null, false, 125),
      fuseWords(null, true, null),
    ]).toEqual(["150 A", "125 A advised", "–", "none fits"]);
  });
});

describe("the cautions of a schedule", () => {
  it("are listed once each, in the order of the rows", () => {
    const rows = [
      { cautions: ["fuse"] },
      { cautions: [] },
      { cautions: ["strap", "fuse"] },
      { cautions: ["live"] },
    ];
    expect(numbered(rows)).toEqual(["fuse", "strap", "live"]);
  });
});
