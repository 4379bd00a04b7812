import type { Curve } from "../api/client";

/** The outline of a curve's band: along its upper edge and back along the lower. */
export function bandPoints(curve: Pick<Curve, "load_ohm" | "low_w" | "high_w">): [number, number][] {
  const upper = curve.load_ohm.map((ohm, i): [number, number] => [ohm, curve.high_w[i] ?? 0]);
  const lower = curve.load_ohm.map((ohm, i): [number, number] => [ohm, curve.low_w[i] ?? 0]);
  return [...upper, ...lower.reverse()];
}

/** Index of the load nearest by ratio; loads rise. */
export function nearestIndex(loads: readonly number[], ohm: number): number {
  let best = 0;
  loads.forEach((load, i) => {
    if (Math.abs(Math.log(load / ohm)) < Math.abs(Math.log((loads[best] ?? load) / ohm))) best = i;
  });
  return best;
}
