import { describe, expect, it } from "vitest";

import type { Curve } from "../../api/client";
import { nearestIndex } from "../../ui/nearestIndex";
import { bandPoints } from "./band";
import { linesOf } from "./lines";
import { chartOptions } from "./options";

function curve(criterion: "thd1" | "clip", scale = 1): Curve {
  const load_ohm = [1, 2, 4];
  const power_w = [900, 600, 350].map((watt) => watt * scale);
  return {
    criterion,
    tone_hz: 40,
    load_ohm,
    power_w,
    low_w: power_w.map((watt) => watt * 0.95),
    high_w: power_w.map((watt) => watt * 1.05),
    limited_by: ["power", "voltage", "voltage"],
    limits_w: { voltage: [1300, 620, 352], current: [1000, 2000, 4000], power: [905, 905, 905] },
    efficiency: [0.76, 0.8, 0.82],
    supply_a: [83, 53, 30],
    heat_w: [280, 150, 77],
    supply_v: [14.1, 14.2, 14.3],
    readings: [
      {
        row: 1,
        load_ohm: 4,
        power_w: 350,
        as_read_w: 345,
        efficiency: 0.82,
        supply_a: 30,
        heat_w: 77,
        supply_v: 14.3,
      },
      {
        row: 2,
        load_ohm: 1,
        power_w: 900,
        as_read_w: 860,
        efficiency: null,
        supply_a: null,
        heat_w: null,
        supply_v: 14.1,
      },
    ],
    supply_exponent: 1,
    exponent_origin: "assumed",
    input_assumed: false,
    basis: "2 readings",
    gaps: [],
  } as unknown as Curve;
}

describe("the lines of a chart over load", () => {
  it("show every criterion with its band and its readings", () => {
    const lines = linesOf([curve("thd1"), curve("clip", 1.1)], "power_w", "all", null);
    expect(lines.map((line) => line.name)).toEqual(["1 % THD", "clipping"]);
    expect(lines[0]?.points).toEqual([
      [4, 350],
      [1, 900],
    ]);
    expect(lines.every((line) => line.low.length === 3 && !line.thin)).toBe(true);
  });

  it("show the three limits of one criterion as thin lines, cut where they leave the picture", () => {
    const lines = linesOf([curve("thd1"), curve("clip")], "power_w", "thd1", null);
    const thin = lines.filter((line) => line.thin);
    expect(thin.map((line) => line.name)).toEqual(["voltage limit", "current limit", "supply limit"]);
    expect(thin[1]?.load).toEqual([1]);
    expect(thin[0]?.load).toEqual([4, 2, 1]);
  });

  it("lay another sheet's line of the same criterion beneath, without its band", () => {
    const other = { name: "2022", curves: [curve("thd1", 0.9), curve("clip", 0.9)] };
    const [theirs, ours] = linesOf([curve("thd1")], "power_w", "all", other);
    expect([theirs?.name, theirs?.low.length, ours?.name]).toEqual(["1 % THD, 2022", 0, "1 % THD"]);
  });

  it("give efficiency in percent and leave out readings that were not taken", () => {
    const [line] = linesOf([curve("thd1")], "efficiency", "all", null);
    expect(line?.value[0]).toBeCloseTo(76);
    expect(line?.points).toEqual([[4, 82]]);
    expect(line?.low).toEqual([]);
  });
});

describe("the chart made of them", () => {
  const colour = (name: string) => name;
  const lines = linesOf([curve("thd1")], "power_w", "thd1", null);

  it("draws measured points above every line, and the read-out's mark once", () => {
    const { series } = chartOptions(lines, "power_w", 2, colour) as {
      series: { type: string; z: number; markLine?: object }[];
    };
    const points = series.filter((each) => each.type === "scatter").map((each) => each.z);
    const drawn = series.filter((each) => each.type === "line").map((each) => each.z);
    expect(Math.min(...points)).toBeGreaterThan(Math.max(...drawn));
    expect(series.filter((each) => each.markLine)).toHaveLength(1);
  });

  it("names both axes with their units and keeps all values inside", () => {
    const options = chartOptions(lines, "power_w", 2, colour) as {
      xAxis: { name: string; min: number; max: number };
      yAxis: { name: string; min: number; max: number; type: string };
    };
    expect([options.xAxis.name, options.yAxis.name, options.yAxis.type]).toEqual([
      "load, Ω",
      "watts at 14.4 V",
      "log",
    ]);
    expect(options.xAxis.min).toBeLessThan(1);
    expect(options.xAxis.max).toBeGreaterThan(4);
    expect(options.yAxis.max).toBeGreaterThan(945);
    expect(chartOptions(lines, "supply_v", 2, colour).yAxis).toMatchObject({ type: "value", scale: true });
  });
});

describe("reading along a curve", () => {
  it("finds the load nearest by ratio, not by difference", () => {
    expect(nearestIndex([1, 4], 2.1)).toBe(1);
    expect(nearestIndex([1, 4], 1.9)).toBe(0);
  });

  it("goes along the upper edge of a band and back along the lower", () => {
    expect(bandPoints([1, 2], [5, 6], [7, 8])).toEqual([
      [1, 7],
      [2, 8],
      [2, 6],
      [1, 5],
    ]);
  });
});
