/** Index of the value nearest by ratio, as a log axis shows it; values are above nothing. */
export function nearestIndex(values: readonly number[], wanted: number): number {
  let best = 0;
  values.forEach((value, i) => {
    if (Math.abs(Math.log(value / wanted)) < Math.abs(Math.log((values[best] ?? value) / wanted))) best = i;
  });
  return best;
}
