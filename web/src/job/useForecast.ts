import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data, Problem, type Forecast, type Job } from "../api/client";
import { identityBesideWords } from "../api/identity";

/** The forecast of a job; the last one stays in view while the next is made, or when one is refused. */
export function useForecast(job: Job | null, wanted = true) {
  return useQuery<Forecast>({
    queryKey: ["forecast", identityBesideWords(job)],
    queryFn: async ({ signal }) => {
      if (!job) throw new Error("no job yet");
      return data(await api.POST("/api/v1/forecasts", { body: { document: job }, signal }));
    },
    enabled: job !== null && wanted,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    // Where nobody answers it is asked again, after 1, 2, 4 … 30 s.
    retry: (_, error) => !(error instanceof Problem) || error.status >= 500,
  });
}

/** What to measure next; asked for once the job has been left alone for a moment. */
export function useMeasureNext(job: Job | null, settled: boolean) {
  return useQuery({
    queryKey: ["measure-next", identityBesideWords(job)],
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
