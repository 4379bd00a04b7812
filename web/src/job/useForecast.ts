import { keepPreviousData, skipToken, useQuery } from "@tanstack/react-query";

import type { Forecast, Job } from "../api/client";
import { identityBesideWords } from "../api/identity";
import { ask, askAgain } from "../api/overview";

/** The forecast of a job; the last one stays in view while the next is made, or when one is refused. */
export function useForecast(job: Job | null) {
  return useQuery<Forecast>({
    queryKey: ["forecast", identityBesideWords(job)],
    queryFn: job ? ({ signal }) => ask(job, "forecasts", signal) : skipToken,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: askAgain,
  });
}

/** What to measure next; asked for once the job has been left alone for a moment. */
export function useMeasureNext(job: Job | null, settled: boolean) {
  return useQuery({
    queryKey: ["measure-next", identityBesideWords(job)],
    queryFn: job ? async ({ signal }) => (await ask(job, "sensitivities", signal)).assumptions : skipToken,
    enabled: settled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}
