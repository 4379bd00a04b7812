import { describe, expect, it } from "vitest";

import type { LoadResult } from "../../api/client";
import { figuresAt, linesOf, VIEWS, type View } from "./frequency";

const curves = {
  frequency_hz: [20, 40],
  impedance_ohm: [2.5, 8],
  phase_deg: [30.4, -12],
  output_v: [20, 24],
  output_a: [8, 3],
  true_w: [138, 70],
  apparent_va: [160, 72],
  supply_a: [14.4, 8.2],
  true_to_apparent: [0.8625, 0.97],
  nominal_ohm: 4,
  travel: {
    peak_mm: [11.26, 4],
    limit_mm: 14,
    watts_at_limit: [210, 1e6],
    level_db: [98, 104],
    cabin_db: [112.6, 110],
  },
  sweep: { frequency_hz: [25, 50], impedance_ohm: [3, 9], phase_deg: [null, null] },
  readings: { frequency_hz: [40], impedance_ohm: [7.8], phase_deg: [-10] },
} as unknown as LoadResult["curves"];
const still = { ...curves, travel: null, sweep: null, readings: null } as unknown as LoadResult["curves"];
const names = (of: LoadResult["curves"], view: View) => linesOf(of, view).map((line) => line.name);

describe("the lines over frequency", () => {
  it("are those of their view, the heard ones only where a cone is known", () => {
    expect(names(curves, "ohms")).toEqual(["|Z|", "phase"]);
    expect(names(curves, "watts")).toEqual(["true watts", "volt-amperes"]);
    expect(names(curves, "amps")).toEqual(["into the coils", "from the supply"]);
    expect(names(curves, "travel")).toEqual(["travel", "its limit"]);
    expect(names(curves, "level")).toEqual(["in the cabin", "outdoors"]);
    expect([names(still, "travel"), names(still, "level")]).toEqual([[], []]);
    const endless = { ...curves, travel: { ...curves.travel, limit_mm: null } } as LoadResult["curves"];
    expect(names(endless, "travel")).toEqual(["travel"]);
  });

  it("carry their own values, and what was measured over the line drawn through it", () => {
    const [ohms, phase] = linesOf(curves, "ohms");
    expect(ohms?.points).toEqual([
      [25, 3],
      [50, 9],
      [40, 7.8],
    ]);
    expect([ohms?.right, phase?.right]).toEqual([undefined, true]);
    expect(linesOf(still, "ohms")[0]?.points).toEqual([]);
    expect(linesOf(curves, "travel").map((line) => line.value)).toEqual([
      [11.26, 4],
      [14, 14],
    ]);
    expect(linesOf(curves, "level").map((line) => line.value)).toEqual([
      [112.6, 110],
      [98, 104],
    ]);
    for (const view of Object.keys(VIEWS) as View[]) {
      const [first, second] = linesOf(curves, view);
      expect(first?.value).not.toEqual(second?.value);
      expect([first?.colour, first?.dash]).not.toEqual([second?.colour, second?.dash]);
      expect(first?.colour).toMatch(/^--\w+$/);
      expect(VIEWS[view].words).not.toBe("");
      expect(VIEWS[view].left).not.toBe("");
    }
  });
});

describe("the figures at a frequency", () => {
  it("say each quantity in its unit", () => {
    expect(Object.fromEntries(figuresAt(curves, 0))).toEqual({
      "|Z|": "2.50 Ω",
      phase: "30°",
      rise: "0.63 ×",
      "true power": "138 W",
      apparent: "160 VA",
      "true to apparent": "86 %",
      output: "20.0 V · 8.0 A",
      "from the supply": "14 A",
      "cone travel": "11.3 mm",
      "limit reached at": "210 W",
      "in the cabin": "113 dB",
    });
    expect(Object.fromEntries(figuresAt(curves, 1))["limit reached at"]).toBe("never");
    expect(figuresAt(still, 0)).toHaveLength(8);
  });
});
