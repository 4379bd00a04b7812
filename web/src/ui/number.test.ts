import fc from "fast-check";
import { afterEach, describe, expect, it } from "vitest";

import { full, readNumber } from "./number";
import { applyWriting } from "./writing";

afterEach(() => applyWriting({ decimals: "point", dates: "iso" }));

const read = (text: string) => {
  const told = readNumber(text);
  return "number" in told ? told.number : told.wrong;
};

describe("a number that somebody wrote", () => {
  it("is read with either decimal sign and with digits in threes", () => {
    for (const text of ["1234.5", "1234,5", "1,234.5", "1.234,5", "1 234.5", "1'234,5", " 1234.50 "])
      expect(read(text), text).toBe(1234.5);
    expect([read("−3"), read("-0,25"), read("1e-3"), read(".5"), read("5.")]).toEqual([
      -3, -0.25, 0.001, 0.5, 5,
    ]);
    expect([read("1,234,567"), read("12 000"), read("0,125")]).toEqual([1234567, 12000, 0.125]);
  });

  it("is asked for again where it can be read in two ways", () => {
    expect(read("1,234")).toBe("“1,234” can be read in two ways: write 1234 or 1.234.");
    expect(read("1.234")).toBe(1.234);
    applyWriting({ decimals: "comma", dates: "iso" });
    expect([read("1,234"), read("1.234,5"), read("12.5"), full(1.234)]).toEqual([
      1.234,
      1234.5,
      12.5,
      "1,234",
    ]);
    expect(read("1.234")).toBe("“1.234” can be read in two ways: write 1234 or 1,234.");
  });

  it("is refused where it is none", () => {
    for (const text of ["", "x", "12x", "1,2,3", "1.2.3", "1,234,5", "1e999", "--1", "1,234.5.6"])
      expect(read(text), text).toContain("is not a number");
  });

  it("is edited with all its digits and read back as the same number", () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, min: -1e300, max: 1e300 }), (value) => {
        expect(read(full(value))).toBe(Number(value.toPrecision(15)) + 0);
      }),
    );
    expect(full(0.0052 * 1000)).toBe("5.2");
    expect(full(48.123456)).toBe("48.123456");
  });
});
