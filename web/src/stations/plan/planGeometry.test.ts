import { describe, expect, it } from "vitest";

import type { PlanMarks, PlanResult } from "../../api/client";
import { niceStep, picture, SIZE } from "./planGeometry";

const MARKS: PlanMarks = {
  cost: [0, 100, 200, 400, 300],
  gain_db: [0, 1.5, 1.2, 4, null],
  terminal_v: [12.3, 12.6, 12.9, 13.2, null],
  meets: [false, false, true, true, false],
  frontier: [true, true, false, true, false],
};
const NONE: PlanMarks = {
  cost: [],
  gain_db: [],
  terminal_v: [],
  meets: [],
  frontier: [],
  engine_off_min: [],
};
const turned = (marks: PlanMarks): PlanMarks => ({
  cost: marks.cost.toReversed(),
  gain_db: marks.gain_db.toReversed(),
  terminal_v: marks.terminal_v.toReversed(),
  meets: marks.meets.toReversed(),
  frontier: marks.frontier.toReversed(),
});

describe("the picture of a plan", () => {
  it("keeps every known mark inside its frame, dearer ones further right, better ones higher", () => {
    const minutes = { ...MARKS, engine_off_min: [40, 60, 50, 90, null] };
    for (const up of ["db", "volts", "minutes"] as const) {
      const { marks } = picture(minutes, up, up === "volts" ? 12.5 : null);
      expect(marks).toHaveLength(4);
      for (const { x, y } of marks) {
        expect(x).toBeGreaterThanOrEqual(SIZE.left);
        expect(x).toBeLessThanOrEqual(SIZE.width - SIZE.right);
        expect(y).toBeGreaterThanOrEqual(SIZE.top);
        expect(y).toBeLessThanOrEqual(SIZE.height - SIZE.bottom);
      }
      expect(marks[3]?.x).toBeGreaterThan(marks[1]?.x ?? Infinity);
      expect(marks[3]?.y).toBeLessThan(marks[1]?.y ?? -Infinity);
    }
  });

  it("draws the line through what no other beats, the cheapest first", () => {
    const { line, marks } = picture(turned(MARKS), "db", null);
    const unbeaten = marks.filter((each) => each.frontier).sort((a, b) => a.x - b.x);
    const points = line.split(" ").map((pair) => pair.split(",").map(Number));
    expect(points.map(([x]) => x)).toEqual(unbeaten.map(({ x }) => Number(x.toFixed(1))));
    expect(points.map(([, y]) => y)).toEqual(unbeaten.map(({ y }) => Number(y.toFixed(1))));
  });

  it("has an axis that goes on by one step past the last value, and a line at nothing gained only for decibels", () => {
    const { rungs, costs, zeroY, marks } = picture(MARKS, "db", null);
    expect(rungs.map(({ value }) => value)).toEqual([0, 1, 2, 3, 4]);
    expect(costs.map(({ cost }) => cost)).toEqual([0, 100, 200, 300, 400]);
    const wide = SIZE.width - SIZE.left - SIZE.right;
    expect(costs.map(({ x }) => (x - SIZE.left) / wide)).toEqual([0, 0.25, 0.5, 0.75, 1]);
    for (const { y, value } of rungs) {
      const same = MARKS.gain_db.indexOf(value);
      if (same >= 0) expect(y).toBeCloseTo(marks[same]?.y ?? NaN);
    }
    expect(zeroY).toBeCloseTo(rungs[0]?.y ?? NaN);
    expect(picture({ ...MARKS, terminal_v: [-1, 0, 1, 2, null] }, "volts", null).zeroY).toBeNull();
    const gained = picture({ ...MARKS, gain_db: [1.2, 1.5, 2, 4, null] }, "db", null);
    expect(gained.zeroY).toBeNull();
  });

  it("puts the car as found at nothing gained, a goal at its height, and a plan on its mark", () => {
    const db = picture(MARKS, "db", null);
    expect(db.zeroY).toBeCloseTo(db.marks[0]?.y ?? NaN);
    expect(db.goalY).toBeNull();
    const volts = picture(MARKS, "volts", 12.6);
    expect(volts.goalY).toBeCloseTo(volts.marks[1]?.y ?? NaN);
    const plan = { cost: 400, gain_db: 4, terminal_v: 13.2 } as PlanResult;
    expect(db.place(plan)).toEqual({ x: db.marks[3]?.x, y: db.marks[3]?.y });
    expect(picture(MARKS, "db", null).place({ ...plan, gain_db: null })).toBeNull();
    expect(picture(NONE, "db", null).marks).toEqual([]);
    expect(picture(MARKS, "minutes", 60).marks).toEqual([]); // as stored before minutes were told
  });

  it("leaves out what lies far below everything that is told", () => {
    const far: PlanMarks = {
      cost: [...MARKS.cost, 250],
      gain_db: [...MARKS.gain_db, -30],
      terminal_v: [...MARKS.terminal_v, 12.4],
      meets: [...MARKS.meets, false],
      frontier: [...MARKS.frontier, false],
    };
    expect(picture(far, "db", null).marks).toHaveLength(4);
    expect(picture(far, "volts", null).marks).toHaveLength(5);
  });

  it("steps by 1, 2 or 5", () => {
    expect([0.03, 1, 1.1, 2.4, 60].map(niceStep)).toEqual([0.05, 1, 2, 5, 100]);
  });
});
