import { describe, expect, it } from "vitest";

import { moved, movedTo, skipped, swapped } from "./stageOrder";

const STAGES = [["charger"], ["cable", "fuse"], ["bank"]];

describe("stages that a person puts together", () => {
  it("move up and down, and stay where there is no room", () => {
    expect(moved(STAGES, 2, -1)).toEqual([["charger"], ["bank"], ["cable", "fuse"]]);
    expect(moved(STAGES, 0, 1)).toEqual([["cable", "fuse"], ["charger"], ["bank"]]);
    expect(moved(STAGES, 0, -1)).toBe(STAGES);
    expect(moved(STAGES, 2, 1)).toBe(STAGES);
  });

  it("are dropped at another's place, from either side", () => {
    expect(movedTo(STAGES, 0, 2)).toEqual([["cable", "fuse"], ["bank"], ["charger"]]);
    expect(movedTo(STAGES, 2, 0)).toEqual([["bank"], ["charger"], ["cable", "fuse"]]);
  });

  it("are skipped, and their steps swapped", () => {
    expect(skipped(STAGES, 1)).toEqual([["charger"], ["bank"]]);
    expect(swapped(STAGES, "fuse", "larger fuse")).toEqual([["charger"], ["cable", "larger fuse"], ["bank"]]);
  });
});
