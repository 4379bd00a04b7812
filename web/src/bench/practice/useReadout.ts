import { useEffect, useState } from "react";

import type { BenchReadout } from "../../api/client";

type Event = Partial<BenchReadout> & { trouble?: string };

/** What the meters of a bench show, live; the browser asks again by itself where the stream ends or breaks. */
export function useReadout(key: string | null) {
  const [heard, setHeard] = useState<{ key: string; shown: BenchReadout } | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    if (key === null) return;
    const source = new EventSource(`/api/v1/benches/${key}/readout`);
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as Event;
      setTrouble(event.trouble ?? "");
      if (event.trouble === undefined) setHeard({ key, shown: event as BenchReadout });
    };
    source.onerror = () => setTrouble("The bench does not answer; it is asked again.");
    return () => source.close();
  }, [key]);
  return { shown: heard?.key === key ? heard.shown : null, trouble, setHeard };
}
