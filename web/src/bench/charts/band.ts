/** The outline of a band over load: along its upper edge and back along the lower. */
export function bandPoints(load: number[], low: number[], high: number[]): [number, number][] {
  const upper = load.map((ohm, i): [number, number] => [ohm, high[i] ?? 0]);
  const lower = load.map((ohm, i): [number, number] => [ohm, low[i] ?? 0]);
  return [...upper, ...lower.reverse()];
}
