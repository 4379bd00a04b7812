import { describe, expect, it } from "vitest";

import type { PlanPoint } from "../../api/client";
import { niceStep, picture, SIZE } from "./planGeometry";

const point = (cost: number, terminal_v: number | null, frontier = false): PlanPoint => ({
  cost,
  terminal_v,
  gain_db: 0,
  meets: false,
  frontier,
});

describe("the picture of a plan", () => {
  it("puts dearer sets to the right and more volts higher, all within its frame", () => {
    const { marks, goalY } = picture([point(0, 11.9, true), point(400, 12.7, true), point(300, 12.1)], 12.5);
    const [first, second, third] = marks.map(({ x, y }) => ({ x, y }));
    expect(second?.x).toBeGreaterThan(third?.x ?? Infinity);
    expect(second?.y).toBeLessThan(third?.y ?? 0);
    for (const { x, y } of marks) {
      expect(x).toBeGreaterThanOrEqual(SIZE.left);
      expect(x).toBeLessThanOrEqual(SIZE.width - SIZE.right);
      expect(y).toBeGreaterThanOrEqual(SIZE.top - 1e-6);
      expect(y).toBeLessThanOrEqual(SIZE.height - SIZE.bottom + 1e-6);
    }
    expect(goalY).toBeGreaterThan(second?.y ?? Infinity);
    expect(goalY).toBeLessThan(first?.y ?? 0);
  });

  it("draws its line through those alone that no other beats, from the cheapest on", () => {
    const { line } = picture([point(400, 12.7, true), point(300, 12.1), point(0, 11.9, true)], null);
    const xs = line.split(" ").map((pair) => Number(pair.split(",")[0]));
    expect(xs.length).toBe(2);
    expect(xs).toEqual([...xs].sort((a, b) => a - b));
  });

  it("leaves out what holds nothing, and survives having nothing to show", () => {
    expect(picture([point(3, null)], null).marks).toEqual([]);
    expect(picture([point(3, null), point(0, 12)], null).marks.length).toBe(1);
  });

  it("counts in ones, twos and fives", () => {
    expect([0.7, 1, 1.2, 3, 6, 130].map(niceStep)).toEqual([1, 1, 2, 5, 10, 200]);
  });
});
