import { useCallback, useEffect } from "react";
import { useSearchParams } from "react-router";

import { useWork } from "../../job/WorkContext";

/** The amplifier that the address asks for, or whose field it leads to; else the first of those at hand. */
export function useChosen(ids: string[]): [string | undefined, (id: string) => void] {
  const { job } = useWork();
  const [query, setQuery] = useSearchParams();
  const led = /^amplifiers\.(\d+)\./.exec(query.get("at") ?? "")?.[1];
  const wanted = led === undefined ? query.get("amplifier") : job.amplifiers?.[Number(led)]?.id;
  const choose = useCallback(
    (id: string) =>
      setQuery(
        (before) => {
          const now = new URLSearchParams(before);
          now.set("amplifier", id);
          return now;
        },
        { replace: true },
      ),
    [setQuery],
  );
  const ledTo = led === undefined ? undefined : wanted;
  const named = query.get("amplifier");
  // Where the way led is where one stays once the address says it no longer.
  useEffect(() => {
    if (ledTo && ledTo !== named) choose(ledTo);
  }, [ledTo, named, choose]);
  return [ids.find((id) => id === wanted) ?? ids[0], choose];
}
