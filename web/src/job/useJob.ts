import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useReducer, useState } from "react";

import { api, data, isRefusal, Problem, type Forecast, type Job, type JobOut } from "../api/client";
import { same } from "../api/same";
import { kept } from "../drafts/drafts";
import { sendable, stateOf, type Happening, type Stored } from "./saving/saving";
import { useSaving, type Keeper } from "./saving/useSaving";
import { resumed, step, type Step, type Working } from "./saving/working";
import { useForecast } from "./useForecast";

/** A job being worked on: with undo, its forecast, and saving by itself; what the server lacks stays in the browser. */
export function useJob(id: number) {
  const client = useQueryClient();
  const keeper = useMemo(() => keeperOf(id), [id]);
  const stored = useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      // What was changed just before the job was left is on its way: read it back only once it has arrived.
      const saving = client
        .getMutationCache()
        .findAll({ mutationKey: ["save", keeper.key], status: "pending" });
      await Promise.allSettled(saving.map((each) => each.continue()));
      return await opened(id, keeper);
    },
    staleTime: Infinity,
    gcTime: 0,
  });
  const [working, act] = useReducer(step<Job>, null);
  const [openedFrom, setOpenedFrom] = useState<Working<Job> | null>(null);
  if (stored.data && stored.data !== openedFrom) {
    setOpenedFrom(stored.data);
    act({ do: "open", working: stored.data });
  }
  const tell = useCallback((event: Happening<Job>) => act({ do: "happened", event }), []);
  useSaving(keeper, working, tell);

  const saving = working?.saving ?? null;
  // A refused value is shown at its field; the forecast goes on with the stored one in its place.
  // What is refused as a whole is not forecast again: the figures are then of what is stored.
  const asked = useMemo(() => {
    if (saving === null) return null;
    return saving.refused.some((each) => each.whole)
      ? saving.stored.document
      : (sendable(saving) ?? saving.present);
  }, [saving]);
  const settledOn = useSettled(asked);
  const forecast = useForecast(settledOn);
  const [lastForecast, setLastForecast] = useState<Forecast | null>(null);
  if (forecast.data && forecast.data !== lastForecast) setLastForecast(forecast.data);
  const { error } = forecast;
  useEffect(() => {
    if (settledOn && isRefusal(error)) {
      const { field: path, message, reason } = error;
      tell({ what: "not allowed", document: settledOn, path, message, reason });
    }
  }, [error, settledOn, tell]);
  const refused = saving?.refused.at(-1);
  const problem = useMemo(
    () => (refused ? new Problem(422, refused.message, refused.path, null, refused.reason) : null),
    [refused],
  );

  const change = useCallback(
    (path: string, value: unknown) => act({ do: "change", path, value, at: Date.now() }),
    [],
  );
  return {
    missing: stored.error,
    job: working?.history.present ?? null,
    asked: settledOn,
    forecast: lastForecast,
    problem,
    /** Whether the forecast that is shown is of before what was typed last. */
    old: forecast.isPlaceholderData,
    /** Whether nobody answers what the job comes to: what is shown is then of before. */
    late: forecast.failureReason !== null && !isRefusal(forecast.failureReason),
    version: saving?.stored.version ?? 1,
    saving,
    save: saving ? stateOf(saving) : ("clean" as const),
    broughtBack: working?.broughtBack ?? null,
    canUndo: (working?.history.past.length ?? 0) > 0,
    canRedo: (working?.history.future.length ?? 0) > 0,
    change,
    tell,
    act,
  };
}

export type Work = ReturnType<typeof useJob>;
export type JobStep = Step<Job>;

/** The same object as long as the document says the same, so that one keystroke asks for one forecast. */
function useSettled(document: Job | null): Job | null {
  const [last, setLast] = useState(document);
  if (document === last || same(document, last)) return last;
  setLast(document);
  return document;
}

function keeperOf(id: number): Keeper<Job> {
  const path = { job_id: id };
  return {
    key: `job:${id}`,
    read: async () => storedOf(data(await api.GET("/api/v1/jobs/{job_id}", { params: { path } }))),
    write: async (body) => {
      const sent = { params: { path }, body, keepalive: true };
      return storedOf(data(await api.PUT("/api/v1/jobs/{job_id}", sent)));
    },
  };
}

function storedOf(answer: JobOut): Stored<Job> {
  return { version: answer.version, document: answer.document as Job };
}

async function opened(id: number, keeper: Keeper<Job>): Promise<Working<Job>> {
  const [stored, mine] = await Promise.all([keeper.read(), kept<Job>(keeper.key)]);
  if (!mine?.document || mine.version === stored.version) return resumed(stored, mine, null);
  const params = { path: { job_id: id, version: mine.version } };
  const base = await api.GET("/api/v1/jobs/{job_id}/revisions/{version}", { params }).catch(() => null);
  return resumed(stored, mine, base ? storedOf(data(base)).document : null);
}
