import { keepPreviousData, useIsFetching, useQuery } from "@tanstack/react-query";

import type { Job } from "../api/client";
import { identityBesideWords } from "../api/identity";
import { useWork } from "./WorkContext";

const KEPT_MS = 60_000;
const WORKED_OUT = { of: "the open job" };

/** Whether some of it is on its way that is shown of before meanwhile; what comes for the first time is not. */
export function useOnItsWay(): boolean {
  return (
    useIsFetching({
      predicate: (query) =>
        query.meta === WORKED_OUT &&
        query.observers.some((each) => each.getCurrentResult().isPlaceholderData),
    }) > 0
  );
}

/**
 * Something that the server works out from the job besides its forecast: asked for once the path has been answered and
 * nobody has typed for a moment; what a newer job makes stale is broken off. The last answer stays in view meanwhile.
 *
 * what   its name, and whatever else it depends on
 */
export function useWorkedOut<T>(
  what: readonly (string | number)[],
  ask: (document: Job, signal: AbortSignal) => Promise<T>,
) {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: [...what, identityBesideWords(job)],
    queryFn: ({ signal }) => ask(job, signal),
    enabled: fresh,
    meta: WORKED_OUT,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}
