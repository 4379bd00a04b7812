import { describe, expect, it } from "vitest";

import { howLong } from "./howLong";
import { simulationOptions } from "./simulationOptions";

describe("how long something lasts", () => {
  it("is said in the unit one would use", () => {
    expect([42, 600, 7080, 7260, null].map(howLong)).toEqual([
      "42 s",
      "10 min",
      "118 min",
      "2 h 1 min",
      "more than three days",
    ]);
  });
});

describe("the chart of a simulation", () => {
  const series = {
    time_s: [1, 2, 3],
    front_v: [13.9, 13.2, 13.8],
    front_low_v: [13.7, 12.9, 13.6],
    terminal_v: [13.6, 12.8, 13.5],
    terminal_low_v: [13.2, 12.3, 13.1],
    charger_a: [40, 56, 50],
    bank_a: [-2, 20, 1],
    charge: [1, 1, 1],
  };
  const options = simulationOptions(series, 1, (name) => name, { caution_v: 24.9, act_v: 11.8 }) as {
    dataZoom: { type: string }[];
    series: { name?: string; data: [number, number][]; markLine?: { data: unknown[] } }[];
    yAxis: { min: number; max: number }[];
  };

  it("can be panned and zoomed by wheel, drag and handle", () => {
    expect(options.dataZoom.map((each) => each.type).sort()).toEqual(["inside", "slider"]);
  });

  it("draws the lowest volts, not only the means, inside its axis", () => {
    const drawn = options.series.flatMap((each) => each.data.map(([, volt]) => volt));
    expect(drawn).toContain(12.3);
    expect(options.yAxis[0]?.min).toBeLessThanOrEqual(11.8);
  });

  it("draws the lines that the forecast gives for this car, inside its axis", () => {
    const marked = options.series.flatMap((each) => each.markLine?.data ?? []);
    expect(marked).toContainEqual(expect.objectContaining({ yAxis: 24.9, name: "caution 24.9 V" }));
    expect(marked).toContainEqual(expect.objectContaining({ yAxis: 11.8, name: "act 11.8 V" }));
    expect(options.yAxis[0]?.max).toBeGreaterThanOrEqual(24.9);
  });
});
