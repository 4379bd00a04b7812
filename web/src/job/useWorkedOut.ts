import { keepPreviousData, useIsFetching, useQuery } from "@tanstack/react-query";

import { identityBesideWords } from "../api/identity";
import { ask, askAgain, type More, type What } from "../api/overview";
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
 * Something that the server works out from the job besides its forecast, asked for together with it; what a newer job
 * makes stale is broken off. The last answer stays in view meanwhile.
 *
 * of   whatever else it depends on
 */
export function useWorkedOut<W extends What>(what: W, index = 0, more: More = {}, of = "") {
  const { asked } = useWork();
  return useQuery({
    queryKey: [what, index, more, of, identityBesideWords(asked)],
    queryFn: ({ signal }) => ask(asked, what, signal, index, more),
    meta: WORKED_OUT,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
    retry: askAgain,
  });
}
