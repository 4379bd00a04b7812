import { describe, expect, it } from "vitest";

import { isStation, STATIONS } from "./stations";

describe("a word of the address", () => {
  it("is a station where a place of the job has that name", () => {
    for (const [key, words] of STATIONS) {
      expect(isStation(key)).toBe(true);
      expect(words.toLowerCase()).toBe(key);
    }
    expect([isStation("shop"), isStation(undefined), isStation("")]).toEqual([false, false, false]);
  });
});
