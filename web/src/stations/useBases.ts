import { useMemo } from "react";

import { setAt } from "../api/quantity";
import { useForecast } from "../job/useJob";
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
 * The same setup with a tone, a burst and music: the three are always shown side by side. They are asked for once the
 * path itself has been answered, so that it never waits for them.
 */
export function useBases() {
  const { setup, fresh } = useWork();
  const music = MUSIC.includes(setup.basis.programme) ? setup.basis.programme : "bass_heavy";
  const [tone, burst, played] = useMemo(
    () =>
      ["tone", "burst", music].map((programme) =>
        programme === setup.basis.programme ? setup : setAt(setup, "basis.programme", programme),
      ),
    [setup, music],
  );
  return [
    { key: "tone", forecast: useForecast(tone ?? setup, fresh).data },
    { key: "burst", forecast: useForecast(burst ?? setup, fresh).data },
    { key: music, forecast: useForecast(played ?? setup, fresh).data },
  ];
}
