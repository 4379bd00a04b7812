import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";

import { api, data, Problem, type Forecast, type Job, type JobOut } from "../api/client";
import { identity } from "../api/identity";
import { setAt } from "../api/quantity";
import { useOnLeave } from "./useOnLeave";
import { changed, opened, redone, undone, type History } from "./history";

const SAVE_AFTER_MS = 500;

export type SaveState =
  { is: "saved" } | { is: "waiting" } | { is: "saving" } | { is: "refused"; problem: Problem };

type Step =
  | { do: "open"; job: Job }
  | { do: "change"; path: string; value: unknown; at: number }
  | { do: "undo" }
  | { do: "redo" };

function step(history: History<Job> | null, action: Step): History<Job> | null {
  if (action.do === "open") return opened(action.job);
  if (!history) return history;
  if (action.do === "undo") return undone(history);
  if (action.do === "redo") return redone(history);
  return changed(history, setAt(history.present, action.path, action.value), action.path, action.at);
}

/** A job being worked on: its job with undo, its forecast, and saving by itself a moment after each change. */
export function useJob(id: number) {
  const client = useQueryClient();
  const stored = useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      // What was changed just before the job was left is on its way: read it back only once it has arrived.
      const saving = client.getMutationCache().findAll({ mutationKey: ["save-job", id], status: "pending" });
      await Promise.allSettled(saving.map((each) => each.continue()));
      return data(await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: id } } }));
    },
    staleTime: Infinity,
    gcTime: 0,
  });
  const version = useRef(1);
  const [history, act] = useReducer(step, null);
  const [saved, setSaved] = useState<{ job: Job; version: number } | null>(null);
  const [openedFrom, setOpenedFrom] = useState<JobOut | null>(null);
  if (stored.data && stored.data !== openedFrom) {
    const job = stored.data.document as Job;
    setOpenedFrom(stored.data);
    setSaved({ job, version: stored.data.version });
    act({ do: "open", job });
  }
  useEffect(() => {
    if (openedFrom) version.current = openedFrom.version;
  }, [openedFrom]);

  const job = history?.present ?? null;
  const forecast = useForecast(job);
  const [lastForecast, setLastForecast] = useState<Forecast | null>(null);
  if (forecast.data && forecast.data !== lastForecast) setLastForecast(forecast.data);
  const save = useMutation({
    mutationKey: ["save-job", id],
    scope: { id: `job ${id}` }, // one after the other, so that each is saved over the version before it
    mutationFn: async (job: Job): Promise<JobOut> =>
      data(
        await api.PUT("/api/v1/jobs/{job_id}", {
          params: { path: { job_id: id } },
          body: { version: version.current, document: job },
        }),
      ),
    onSuccess: (answer, job) => {
      version.current = answer.version;
      setSaved({ job: job, version: answer.version });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
  });

  const { mutate, isPending } = save;
  const sound = forecast.data !== undefined && !forecast.error && !forecast.isPlaceholderData;
  // Only what the server could forecast is saved: a refused value is shown at its field and never stored.
  const unsaved = job && sound && job !== saved?.job ? job : null;
  useEffect(() => {
    if (!unsaved || isPending) return;
    const timer = setTimeout(() => mutate(unsaved), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [unsaved, isPending, mutate]);
  useOnLeave(unsaved, mutate);

  const change = useCallback(
    (path: string, value: unknown) => act({ do: "change", path, value, at: Date.now() }),
    [],
  );
  const undo = useCallback(() => act({ do: "undo" }), []);
  const redo = useCallback(() => act({ do: "redo" }), []);
  return {
    missing: stored.error,
    job,
    forecast: lastForecast,
    fresh: sound,
    problem: forecast.error instanceof Problem ? forecast.error : null,
    version: saved?.version ?? 1,
    save: saveState(save.error, isPending, job, saved?.job ?? null),
    canUndo: (history?.past.length ?? 0) > 0,
    canRedo: (history?.future.length ?? 0) > 0,
    change,
    undo,
    redo,
  };
}

export type Work = ReturnType<typeof useJob>;

function saveState(error: Error | null, saving: boolean, job: Job | null, saved: Job | null): SaveState {
  if (saving) return { is: "saving" };
  if (job === saved || job === null) return { is: "saved" };
  if (error instanceof Problem) return { is: "refused", problem: error };
  return { is: "waiting" };
}

/** The forecast of a job; the last one stays in view while the next is made, or when one is refused. */
export function useForecast(job: Job | null, wanted = true) {
  return useQuery<Forecast>({
    queryKey: ["forecast", identity(job)],
    queryFn: async ({ signal }) => {
      if (!job) throw new Error("no job yet");
      return data(await api.POST("/api/v1/forecasts", { body: { document: job }, signal }));
    },
    enabled: job !== null && wanted,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}

/** What to measure next; asked for once the job has been left alone for a moment. */
export function useMeasureNext(job: Job | null, settled: boolean) {
  return useQuery({
    queryKey: ["measure-next", identity(job)],
    queryFn: async ({ signal }) => {
      if (!job) throw new Error("no job yet");
      return data(await api.POST("/api/v1/sensitivities", { body: { document: job }, signal })).assumptions;
    },
    enabled: job !== null && settled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}
