import type { PlanMarks, PlanResult } from "../../api/client";

/** What stands upwards in the picture. */
export type Up = "db" | "volts" | "minutes";

export interface Placed {
  x: number;
  y: number;
  meets: boolean;
  frontier: boolean;
}

export interface Picture {
  marks: Placed[];
  line: string;
  costs: { x: number; cost: number }[];
  rungs: { y: number; value: number }[];
  goalY: number | null;
  zeroY: number | null;
  place: (plan: PlanResult) => { x: number; y: number } | null;
}

export const SIZE = { width: 640, height: 320, left: 52, right: 16, top: 16, bottom: 36 };
const FAR_BELOW = 0.5;
const LEAST_SPAN = { db: 1, volts: 0.4, minutes: 5 };
/** Under what name a plan and the marks tell it. */
const TOLD = { db: "gain_db", volts: "terminal_v", minutes: "engine_off_min" } as const;

/** Cost across, decibels, volts or minutes up: every solved set as a mark, a line through those that no other beats. */
export function picture(marks: PlanMarks, up: Up, goal: number | null): Picture {
  const known = marks.cost.flatMap((cost, i) => {
    const value = marks[TOLD[up]]?.[i];
    if (value == null) return [];
    return [{ cost, value, meets: marks.meets[i] ?? false, frontier: marks.frontier[i] ?? false }];
  });
  const best = known.filter((each) => each.frontier || each.meets).map((each) => each.value);
  const told = [
    ...(best.length > 0 ? best : known.map((each) => each.value)),
    ...(goal == null ? [] : [goal]),
  ];
  const found = known[0]?.value;
  const floor = Math.min(...told, found ?? Infinity);
  // What is far below everything that is told would squeeze it.
  const least = floor - FAR_BELOW * Math.max(Math.max(...told) - floor, LEAST_SPAN[up]);
  const near = known.filter((each) => each.value >= least);
  const values = [...near.map((each) => each.value), ...(goal == null ? [] : [goal])];
  const nothing = { marks: [], line: "", costs: [], rungs: [], goalY: null, zeroY: null, place: () => null };
  if (values.length === 0) return nothing;
  const most = Math.max(...known.map((each) => each.cost), 1);
  const step = niceStep(Math.max(Math.max(...values) - Math.min(...values), LEAST_SPAN[up]) / 6);
  const low = Math.floor(Math.min(...values) / step) * step;
  const high = Math.max(Math.ceil(Math.max(...values) / step) * step, low + step);
  const { width, height, left, right, top, bottom } = SIZE;
  const x = (cost: number) => left + (cost / most) * (width - left - right);
  const y = (value: number) => height - bottom - ((value - low) / (high - low)) * (height - top - bottom);
  const placed = near.map(({ cost, value, meets, frontier }) => ({
    x: x(cost),
    y: y(value),
    meets,
    frontier,
  }));
  const unbeaten = placed.filter((each) => each.frontier).sort((a, b) => a.x - b.x);
  const across = niceStep(most / 5);
  return {
    marks: placed,
    line: unbeaten.map((each) => `${each.x.toFixed(1)},${each.y.toFixed(1)}`).join(" "),
    costs: steps(0, most, across).map((cost) => ({ x: x(cost), cost })),
    rungs: steps(low, high, step).map((value) => ({ y: y(value), value })),
    goalY: goal == null ? null : y(goal),
    zeroY: up === "db" && low <= 0 && high >= 0 ? y(0) : null,
    place: (plan) => {
      const value = plan[TOLD[up]];
      return value == null ? null : { x: x(plan.cost), y: y(value) };
    },
  };
}

function steps(from: number, to: number, step: number): number[] {
  return Array.from({ length: Math.floor((to - from) / step + 1e-9) + 1 }, (_, k) => from + k * step);
}

/** 1, 2 or 5 times a power of ten, no less than what is asked. */
export function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(least, 1e-9)));
  return power * ([1, 2, 5].find((each) => each * power >= least * (1 - 1e-9)) ?? 10);
}
