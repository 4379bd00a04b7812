import { useCallback, useState } from "react";

import type { Job } from "../api/client";
import type { Open } from "./WorkContext";

export const ENGINES = [
  ["off", "Off"],
  ["idle", "Idle"],
  ["cruise", "Cruise"],
] as const;
export const PLAYED = [
  ["tone", "Tone"],
  ["burst", "Burst"],
  ["music", "Music"],
] as const;
export type Played = (typeof PLAYED)[number][0];
type Programme = Job["basis"]["programme"];

/** What is played, of three; "music" goes back to the music that was chosen last. */
export function usePlaying(job: Job, change: Open["change"]) {
  const programme = job.basis.programme;
  const [music, setMusic] = useState<Programme>("bass_heavy");
  const isMusic = programme !== "tone" && programme !== "burst";
  if (isMusic && programme !== music) setMusic(programme);
  const play = useCallback(
    (what: Played) => change("basis.programme", what === "music" ? music : what),
    [change, music],
  );
  return { played: isMusic ? ("music" as const) : programme, play };
}

/** The option after the one that holds, and after the last the first. */
export function next<T extends string>(options: readonly (readonly [T, string])[], value: T): T {
  const at = options.findIndex(([key]) => key === value);
  return (options[(at + 1) % options.length] ?? options[0])?.[0] ?? value;
}
