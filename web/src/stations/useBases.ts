import { useMemo } from "react";

import { setAt } from "../api/quantity";
import { useForecast } from "../job/useForecast";
import { useWork } from "../job/WorkContext";

const MUSIC = ["everyday", "bass_heavy", "held_bass", "file"];
export const PROGRAMME_WORDS: Record<string, string> = {
  tone: "Full tone",
  burst: "Burst",
  everyday: "Everyday music",
  bass_heavy: "Bass-heavy music",
  held_bass: "Long held bass",
  file: "Your recording",
};

/**
 * The same job with a tone, a burst and music: the three are always shown side by side. They are asked for once the
 * path itself has been answered, so that it never waits for them.
 */
export function useBases() {
  const { job, fresh } = useWork();
  const music = MUSIC.includes(job.basis.programme) ? job.basis.programme : "bass_heavy";
  const [tone, burst, played] = useMemo(
    () =>
      ["tone", "burst", music].map((programme) =>
        programme === job.basis.programme ? job : setAt(job, "basis.programme", programme),
      ),
    [job, music],
  );
  return [
    { key: "tone", ...answered(useForecast(tone ?? job, fresh)) },
    { key: "burst", ...answered(useForecast(burst ?? job, fresh)) },
    { key: music, ...answered(useForecast(played ?? job, fresh)) },
  ];
}

/** `settled` is whether there is an answer, if only that there is none. */
function answered({ data, isError }: ReturnType<typeof useForecast>) {
  return { forecast: data, settled: data !== undefined || isError };
}
