export const STATIONS = [
  ["load", "Load"],
  ["amplifiers", "Amplifiers"],
  ["draw", "Draw"],
  ["supply", "Supply"],
  ["cable", "Cable"],
  ["plan", "Plan"],
  ["proof", "Proof"],
] as const;

export type Station = (typeof STATIONS)[number][0];

export function isStation(word: string | undefined): word is Station {
  return STATIONS.some(([key]) => key === word);
}
