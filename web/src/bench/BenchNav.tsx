import { PartsNav } from "../ui/PartsNav";

const PARTS = [
  ["/bench", "Amplifiers"],
  ["/bench/compare", "Compare"],
  ["/bench/resistors", "Resistor bank"],
  ["/bench/practice", "Practice"],
] as const;

/** The parts of the bench. */
export function BenchNav() {
  return <PartsNav label="Parts of the bench" parts={PARTS} />;
}
