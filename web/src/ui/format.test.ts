import { afterEach, describe, expect, it } from "vitest";

import sentences from "../../../underhood/tests/comma_cases.json";
import cases from "../../../underhood/tests/number_cases.json";
import { fixed, inUnit, plain, readable } from "./format";
import { applyWriting, inWords } from "./writing";

afterEach(() => applyWriting({ decimals: "point", dates: "iso" }));

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

  it("is written with no more digits than a meter shows", () => {
    expect([inUnit(9.94, "W"), inUnit(9.96, "VA"), inUnit(-42.4, "W"), inUnit(9.96, "A")]).toEqual([
      "9.9",
      "10.0",
      "−42",
      "10.0",
    ]);
    expect([inUnit(0.2584, "EUR/W"), inUnit(1234.56, "Hz"), inUnit(-0.5, "")]).toEqual([
      "0.258",
      "1235",
      "−0.5",
    ]);
    expect([readable(0.4567, "V"), readable(1.5, "V"), readable(-0.05, "Ω/m")]).toEqual([
      ["0.457", "V"],
      ["1.50", "V"],
      ["−50", "mΩ/m"],
    ]);
  });

  it("turns small ohms into milliohms", () => {
    expect(readable(0.0052, "Ω")).toEqual(["5.2", "mΩ"]);
    expect(readable(1.8, "Ω")).toEqual(["1.8", "Ω"]);
  });

  it("is printed as the core prints it, no finer than its band", () => {
    for (const { value, unit, half_band, printed } of cases)
      expect(inUnit(value, unit, half_band), `${value} ± ${half_band} ${unit}`).toBe(printed);
  });

  it("has the workshop's decimal sign, also inside the core's sentences, but not in a name", () => {
    applyWriting({ decimals: "comma", dates: "iso" });
    expect([fixed(12.345, 1), plain(0.5), inUnit(1186, "W", 47)]).toEqual(["12,3", "0,5", "1190"]);
    for (const [point, comma] of sentences) expect(inWords(point ?? "")).toBe(comma);
  });
});
