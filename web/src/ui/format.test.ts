import { describe, expect, it } from "vitest";

import { fixed, inUnit, readable } from "./format";

describe("a figure as it is shown", () => {
  it("has a true minus sign and no minus zero", () => {
    expect(fixed(-1.25, 1)).toBe("−1.3");
    expect(fixed(-0.04, 1)).toBe("0.0");
  });

  it("has the decimals of its unit", () => {
    expect([inUnit(12.344, "V"), inUnit(506.4, "W"), inUnit(41.67, "A"), inUnit(-0.687, "dB")]).toEqual([
      "12.34",
      "506",
      "42",
      "−0.7",
    ]);
  });

  it("turns small ohms into milliohms", () => {
    expect(readable(0.0052, "Ω")).toEqual(["5.2", "mΩ"]);
    expect(readable(1.8, "Ω")).toEqual(["1.8", "Ω"]);
  });
});
