/** The outline of a band over load: along its upper edge and back along the lower. */
export function bandPoints(load: number[], low: number[], high: number[]): [number, number][] {
  const upper = load.map((ohm, i): [number, number] => [ohm, high[i] ?? 0]);
  const lower = load.map((ohm, i): [number, number] => [ohm, low[i] ?? 0]);
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
