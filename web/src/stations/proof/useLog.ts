import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";

import { api, data, type ReadingOut } from "../../api/client";
import { keep, kept } from "../../drafts/drafts";
import { readNumber } from "../../ui/number";
import {
  after,
  EMPTY_LOG,
  keptTogether,
  nextToSend,
  refusalOf,
  retryMs,
  type Log,
  type Waiting,
} from "./log";

type Step = Parameters<typeof after>[1] | { did: "back"; log: Log };

function step(log: Log, event: Step): Log {
  return event.did === "back"
    ? { ...EMPTY_LOG, ...event.log, waiting: merged(event.log, log) }
    : after(log, event);
}

/** What was kept, and what was taken before it was read back. */
function merged(before: Log, log: Log): Waiting[] {
  const known = new Set(before.waiting.map((one) => one.key));
  return [...before.waiting, ...log.waiting.filter((one) => !known.has(one.key))];
}

/** The readings of a job: those the server has, and those on their way, kept in this browser until it has them. */
export function useLog(jobId: number) {
  const client = useQueryClient();
  const key = `readings:${jobId}`;
  const [log, act] = useReducer(step, EMPTY_LOG);
  const [read, setRead] = useState(false);
  const [tries, setTries] = useState(0);
  const sending = useRef<string | null>(null);
  const known = useRef<string[]>([]);
  const gone = useRef(new Set<string>());
  const keeping = useRef(Promise.resolve());
  const stored = useQuery({
    queryKey: ["readings", jobId],
    queryFn: async ({ signal }) => {
      const params = { path: { job_id: jobId }, query: { replaced: true, limit: 500 } };
      return data(await api.GET("/api/v1/jobs/{job_id}/readings", { params, signal })).items;
    },
  });
  useEffect(() => {
    let gone = false;
    void kept<Log>(key).then((draft) => {
      if (gone) return;
      if (draft?.document) act({ did: "back", log: draft.document });
      setRead(true);
    });
    return () => {
      gone = true;
    };
  }, [key]);
  useEffect(() => {
    if (!read) return;
    for (const one of known.current) if (!log.waiting.some(({ key }) => key === one)) gone.current.add(one);
    known.current = log.waiting.map((one) => one.key);
    // One after the other: what is read must be what the write before has left.
    keeping.current = keeping.current.then(async () => {
      const found = await kept<Log>(key);
      const document = keptTogether(found?.document ?? null, log, gone.current);
      await keep(key, { version: 1, document, past: [], future: [], at: Date.now() });
    });
  }, [key, log, read]);

  const next = read ? nextToSend(log) : null;
  useEffect(() => {
    if (next === null || sending.current !== null) return;
    const timer = setTimeout(
      () => {
        sending.current = next.key;
        void send(jobId, next)
          // Before what follows is told, for that may send the next one at once.
          .finally(() => {
            sending.current = null;
          })
          .then((row) => {
            client.setQueryData<ReadingOut[]>(["readings", jobId], (rows) => withRow(rows ?? [], row));
            setTries(0);
            act({ did: "stored", key: next.key });
          })
          .catch((error: unknown) => {
            const why = refusalOf(error);
            if (why === null) setTries((before) => before + 1);
            else act({ did: "refused", key: next.key, why });
          });
      },
      tries === 0 ? 0 : retryMs(tries - 1),
    );
    return () => clearTimeout(timer);
  }, [next, jobId, client, tries]);
  const refresh = useCallback(
    () => void client.invalidateQueries({ queryKey: ["readings", jobId] }),
    [client, jobId],
  );
  const rows = stored.data ?? [];
  return {
    rows,
    current: rows.filter((row) => !row.replaced),
    error: stored.error,
    /** Whether what the server has was read. */
    ready: stored.data !== undefined && read,
    log,
    act,
    /** Whether the last try to send found nobody. */
    offline: tries > 0,
    refresh,
  };
}

export type ReadingsLog = ReturnType<typeof useLog>;

function withRow(rows: ReadingOut[], row: ReadingOut): ReadingOut[] {
  const others = rows
    .filter((each) => each.id !== row.id)
    .map((each) => (each.id === row.replaces ? { ...each, replaced: true } : each));
  return [...others, row];
}

async function send(jobId: number, one: Waiting): Promise<ReadingOut> {
  const { key, asked, value, meter, meter_range, by, note, excluded, taken_at } = one;
  // What is no plain number here is sent as it was typed: the server reads "350m".
  const written = readNumber(value);
  const reading = {
    ...asked,
    value: ("number" in written ? written.number : value) as number,
    meter,
    meter_range,
    by,
    note,
    excluded,
    taken_at,
  };
  const body = { key, reading };
  if (one.replaces !== null) {
    const params = { path: { reading_id: one.replaces } };
    return data(await api.POST("/api/v1/readings/{reading_id}/corrections", { params, body }));
  }
  const params = { path: { job_id: jobId } };
  return data(await api.POST("/api/v1/jobs/{job_id}/readings", { params, body }));
}
