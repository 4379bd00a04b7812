import { useWorkedOut } from "../job/useWorkedOut";

export const PROGRAMME_WORDS: Record<string, string> = {
  tone: "Full tone",
  burst: "Burst",
  everyday: "Everyday music",
  bass_heavy: "Bass-heavy music",
  held_bass: "Long held bass",
  file: "Your recording",
};

/** Programmes, reserves and classes side by side, and what gives first. */
export function useSupplyReport() {
  return useWorkedOut("supply-reports");
}
