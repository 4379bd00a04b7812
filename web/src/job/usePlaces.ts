import { useWork } from "./WorkContext";

const WORDS: Record<string, string> = { front: "in front", rear: "in the rear", body: "the body's negative" };

/** The places where a part of this job may stand: the front, and wherever a cable leads, in words. */
export function usePlaces(): [string, string][] {
  const { job } = useWork();
  const cabled = (job.cables ?? []).flatMap((cable) => [cable.from, cable.to]);
  const places = new Set(["front", ...cabled]);
  places.delete("charger");
  places.delete("engine");
  return [...places].map((place) => [place, WORDS[place] ?? place]);
}
