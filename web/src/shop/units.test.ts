import { describe, expect, it } from "vitest";

import type { WorkshopSettings } from "../api/client";
import { FEET_PER_M, lengthField, lengthWords, money, sizeWords, times } from "./units";

const shop = (sizes: "awg" | "mm2", lengths: "m" | "ft") => ({ sizes, lengths }) as WorkshopSettings;

describe("a shop's own units", () => {
  it("come first, with the others beside them", () => {
    const size = { awg: "1/0 AWG", mm2: "53.5 mm²" };
    expect(sizeWords(size, shop("awg", "m"))).toEqual(["1/0 AWG", "53.5 mm²"]);
    expect(sizeWords(size, shop("mm2", "m"))).toEqual(["53.5 mm²", "1/0 AWG"]);
    expect(lengthWords(7.5, shop("awg", "m"))).toEqual(["7.5 m", "24.6 ft"]);
    expect(lengthWords(7.5, shop("awg", "ft"))).toEqual(["24.6 ft", "7.5 m"]);
  });

  it("turn a length typed in feet back into the file's metres: eighteen inches are 0.4572 m", () => {
    const { unit, per } = lengthField(shop("awg", "ft"));
    expect(unit).toBe("ft");
    expect(1.5 / per).toBeCloseTo(0.4572, 12);
    expect(lengthField(shop("awg", "m"))).toEqual({ unit: "m", per: 1 });
    expect(FEET_PER_M * 0.3048).toBeCloseTo(1, 14);
  });
});

describe("words", () => {
  it("name the runs only where there are several", () => {
    expect([times(1, "4 AWG"), times(2, "4 AWG")]).toEqual(["4 AWG", "2 × 4 AWG"]);
  });

  it("leave the cents of large sums away", () => {
    expect([money(9.5, "EUR"), money(100, "EUR"), money(312.4, "EUR")]).toEqual([
      "9.50 EUR",
      "100 EUR",
      "312 EUR",
    ]);
  });
});
