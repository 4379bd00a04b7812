import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useReducer, useState } from "react";

import { api, data, Problem, type Forecast, type Job, type JobOut } from "../api/client";
import { identity } from "../api/identity";
import { setAt } from "../api/quantity";
import { changed, opened, redone, undone, type History } from "./history";

const SAVE_AFTER_MS = 500;

export type SaveState =
  { is: "saved" } | { is: "waiting" } | { is: "saving" } | { is: "refused"; problem: Problem };

type Step =
  | { do: "open"; setup: Job }
  | { do: "change"; path: string; value: unknown; at: number }
  | { do: "undo" }
  | { do: "redo" };

function step(history: History<Job> | null, action: Step): History<Job> | null {
  if (action.do === "open") return opened(action.setup);
  if (!history) return history;
  if (action.do === "undo") return undone(history);
  if (action.do === "redo") return redone(history);
  return changed(history, setAt(history.present, action.path, action.value), action.path, action.at);
}

/** A job being worked on: its setup with undo, its forecast, and saving by itself a moment after each change. */
export function useJob(id: number) {
  const client = useQueryClient();
  const stored = useQuery({
    queryKey: ["job", id],
    queryFn: async () => data(await api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
  const [history, act] = useReducer(step, null);
  const [saved, setSaved] = useState<{ setup: Job; version: number } | null>(null);
  const [openedFrom, setOpenedFrom] = useState<JobOut | null>(null);
  if (stored.data && stored.data !== openedFrom) {
    const setup = stored.data.setup as Job;
    setOpenedFrom(stored.data);
    setSaved({ setup, version: stored.data.version });
    act({ do: "open", setup });
  }

  const setup = history?.present ?? null;
  const forecast = useForecast(setup);
  const save = useMutation({
    mutationFn: async (job: Job): Promise<JobOut> =>
      data(
        await api.PUT("/api/jobs/{job_id}", {
          params: { path: { job_id: id } },
          body: { version: saved?.version ?? 1, setup: job },
        }),
      ),
    onSuccess: (answer, job) => {
      setSaved({ setup: job, version: answer.version });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
  });

  const { mutate, isPending } = save;
  const sound = forecast.data !== undefined && !forecast.error && !forecast.isPlaceholderData;
  useEffect(() => {
    // Only what the server could forecast is saved: a refused value is shown at its field and never stored.
    if (!setup || !sound || isPending || setup === saved?.setup) return;
    const timer = setTimeout(() => mutate(setup), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [setup, saved, sound, isPending, mutate]);

  const change = useCallback(
    (path: string, value: unknown) => act({ do: "change", path, value, at: Date.now() }),
    [],
  );
  const undo = useCallback(() => act({ do: "undo" }), []);
  const redo = useCallback(() => act({ do: "redo" }), []);
  return {
    missing: stored.error,
    setup,
    forecast: forecast.data ?? null,
    fresh: sound,
    problem: forecast.error instanceof Problem ? forecast.error : null,
    version: saved?.version ?? 1,
    save: saveState(save.error, isPending, setup, saved?.setup ?? null),
    canUndo: (history?.past.length ?? 0) > 0,
    canRedo: (history?.future.length ?? 0) > 0,
    change,
    undo,
    redo,
  };
}

export type Work = ReturnType<typeof useJob>;

function saveState(error: Error | null, saving: boolean, setup: Job | null, saved: Job | null): SaveState {
  if (saving) return { is: "saving" };
  if (setup === saved || setup === null) return { is: "saved" };
  if (error instanceof Problem) return { is: "refused", problem: error };
  return { is: "waiting" };
}

/** The forecast of a setup; the last one stays in view while the next is made, or when one is refused. */
export function useForecast(setup: Job | null, wanted = true) {
  return useQuery<Forecast>({
    queryKey: ["forecast", identity(setup)],
    queryFn: async ({ signal }) => {
      if (!setup) throw new Error("no setup yet");
      return data(await api.POST("/api/forecast", { body: { setup }, signal }));
    },
    enabled: setup !== null && wanted,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}

/** What to measure next; asked for once the setup has been left alone for a moment. */
export function useMeasureNext(setup: Job | null, settled: boolean) {
  return useQuery({
    queryKey: ["measure-next", identity(setup)],
    queryFn: async ({ signal }) => {
      if (!setup) throw new Error("no setup yet");
      return data(await api.POST("/api/measure-next", { body: { setup }, signal })).assumptions;
    },
    enabled: setup !== null && settled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}
