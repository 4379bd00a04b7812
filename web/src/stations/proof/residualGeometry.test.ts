import { describe, expect, it } from "vitest";

import type { ReadingResult } from "../../api/client";
import { marksOf, REACH } from "./residualGeometry";
import { band, shown } from "./shown";

const reading = (more: Partial<ReadingResult>): ReadingResult => ({
  row: 1,
  words: "Volts",
  state: "",
  unit: "V",
  predicted: 12,
  low: 11,
  high: 12.5,
  measured: 11.5,
  residual: -0.5,
  share: -0.5,
  inside: true,
  bad: 0,
  suspect: false,
  why: "",
  corrected: 11.6,
  corrected_low: 11.4,
  corrected_high: 11.8,
  ...more,
});

describe("a reading in the plot", () => {
  it("stands in half bands from the forecast, and from the corrected car by the side it is off to", () => {
    const [mark] = marksOf([reading({ corrected_low: 11.2 })]);
    expect(mark?.at).toBe(-0.5);
    expect(mark?.corrected).toBeCloseTo(-0.25);
    expect(marksOf([reading({ measured: 11.7 })])[0]?.corrected).toBeCloseTo(0.5);
  });

  it("is held at the edge where it lies farther out, and says so", () => {
    expect(marksOf([reading({ share: 7 })])[0]).toMatchObject({ at: REACH, beyond: true });
    expect(marksOf([reading({ share: -2 })])[0]).toMatchObject({ at: -2, beyond: false });
  });

  it("is left out where nothing was predicted", () => {
    expect(marksOf([reading({ share: null, inside: null })])).toEqual([]);
    expect(marksOf([reading({ corrected: null })])[0]?.corrected).toBeNull();
  });
});

describe("a value with its unit", () => {
  it("is in thousandths where it is small", () => {
    expect(shown(0.0437, "V")).toBe("43.7 mV");
    expect(shown(12.345, "V")).toBe("12.35 V");
    expect(shown(0.00737, "Ω")).toBe("7.37 mΩ");
    expect(shown(0.86, "Ω")).toBe("0.86 Ω");
    expect(shown(45.7, "°")).toBe("46 °");
    expect(band(0.006, 0.159, "V")).toBe("6 to 159 mV");
    expect(band(12.63, 12.92, "V")).toBe("12.63 to 12.92 V");
  });
});
