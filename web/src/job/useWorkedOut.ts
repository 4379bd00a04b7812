import { keepPreviousData, useQuery } from "@tanstack/react-query";

import type { Job } from "../api/client";
import { identity } from "../api/identity";
import { useWork } from "./WorkContext";

const KEPT_MS = 60_000;

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
    queryKey: [...what, identity(job)],
    queryFn: ({ signal }) => ask(job, signal),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}
