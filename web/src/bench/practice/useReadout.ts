import { useEffect, useRef, useState } from "react";

import type { BenchReadout } from "../../api/client";

type Event = Partial<BenchReadout> & { trouble?: string; gone?: true };

/** What the meters of a bench show, live; the browser asks again by itself where the stream ends or breaks.
 *  `onGone` is told once where nothing stands on the bench any more. */
export function useReadout(key: string, onGone: () => void) {
  const [heard, setHeard] = useState<{ key: string; shown: BenchReadout } | null>(null);
  const [trouble, setTrouble] = useState("");
  const latest = useRef(onGone);
  useEffect(() => {
    latest.current = onGone;
  });
  useEffect(() => {
    const source = new EventSource(`/api/v1/benches/${key}/readout`);
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as Event;
      if (event.gone) {
        source.close();
        latest.current();
        return;
      }
      setTrouble(event.trouble ?? "");
      if (event.trouble === undefined) setHeard({ key, shown: event as BenchReadout });
    };
    source.onerror = () =>
      setTrouble(
        source.readyState === EventSource.CLOSED // refused, as after a log-out: no browser asks again
          ? "The bench does not answer any more; open this page again."
          : "The bench does not answer; it is asked again.",
      );
    return () => source.close();
  }, [key]);
  return { shown: heard?.key === key ? heard.shown : null, trouble };
}
