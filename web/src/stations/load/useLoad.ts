import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { useWork } from "../../job/WorkContext";

/** One amplifier's load over frequency, why its watts are fewer, and its heat; asked for after the path itself. */
export function useLoadCurves(index: number) {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["load-curves", index, job],
    queryFn: async () =>
      data(
        await api.POST("/api/v1/load-curves/{index}", {
          params: { path: { index } },
          body: { document: job },
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}

/** Every way to wire and connect one amplifier's drivers, each by its own forecast. */
export function useLoadOptions(index: number) {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["load-options", index, job],
    queryFn: async () =>
      data(
        await api.POST("/api/v1/wiring-options/{index}", {
          params: { path: { index } },
          body: { document: job },
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}
