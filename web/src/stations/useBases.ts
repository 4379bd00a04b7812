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
  const tone = useForecast(setAt(setup, "basis.programme", "tone"), fresh);
  const burst = useForecast(setAt(setup, "basis.programme", "burst"), fresh);
  const played = useForecast(setAt(setup, "basis.programme", music), fresh);
  return [
    { key: "tone", forecast: tone.data },
    { key: "burst", forecast: burst.data },
    { key: music, forecast: played.data },
  ];
}
