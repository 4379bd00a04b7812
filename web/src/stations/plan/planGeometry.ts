import type { PlanPoint } from "../../api/client";

export interface Mark {
  x: number;
  y: number;
  point: PlanPoint;
}

export interface Picture {
  marks: Mark[];
  line: string;
  costs: { x: number; cost: number }[];
  volts: { y: number; volts: number }[];
  goalY: number | null;
}

export const SIZE = { width: 640, height: 300, left: 52, right: 16, top: 14, bottom: 34 };

/** Cost across, volts up: every solved set as a mark, a line through those that no other beats. */
export function picture(points: readonly PlanPoint[], goalV: number | null): Picture {
  const solved = points.filter((each) => each.terminal_v != null);
  const volts = [...solved.map((each) => each.terminal_v ?? 0), ...(goalV == null ? [] : [goalV])];
  if (volts.length === 0) return { marks: [], line: "", costs: [], volts: [], goalY: null };
  const most = Math.max(...solved.map((each) => each.cost), 1);
  const low = Math.floor(Math.min(...volts) * 5) / 5;
  const high = Math.max(Math.ceil(Math.max(...volts) * 5) / 5, low + 0.2);
  const { width, height, left, right, top, bottom } = SIZE;
  const x = (cost: number) => left + (cost / most) * (width - left - right);
  const y = (v: number) => height - bottom - ((v - low) / (high - low)) * (height - top - bottom);
  const marks = solved.map((point) => ({ x: x(point.cost), y: y(point.terminal_v ?? 0), point }));
  const best = marks.filter((mark) => mark.point.frontier).sort((a, b) => a.x - b.x);
  const step = niceStep(most / 5);
  const rungs = Math.round((high - low) / 0.2);
  const every = Math.max(Math.ceil(rungs / 6), 1);
  return {
    marks,
    line: best.map((mark) => `${mark.x.toFixed(1)},${mark.y.toFixed(1)}`).join(" "),
    costs: Array.from({ length: Math.floor(most / step) + 1 }, (_, k) => ({
      x: x(k * step),
      cost: k * step,
    })),
    volts: Array.from({ length: Math.floor(rungs / every) + 1 }, (_, k) => low + 0.2 * every * k).map(
      (v) => ({
        y: y(v),
        volts: v,
      }),
    ),
    goalY: goalV == null ? null : y(goalV),
  };
}

/** 1, 2 or 5 times a power of ten, no less than what is asked. */
export function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(least, 1e-9)));
  return power * ([1, 2, 5].find((each) => each * power >= least) ?? 10);
}
