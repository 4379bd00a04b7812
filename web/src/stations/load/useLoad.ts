import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { useWork } from "../../job/WorkContext";

/** One amplifier's load over frequency, why its watts are fewer, and its heat; asked for after the path itself. */
export function useLoadCurves(index: number) {
  const { setup, fresh } = useWork();
  return useQuery({
    queryKey: ["load-curves", index, setup],
    queryFn: async () =>
      data(
        await api.POST("/api/load-curves/{index}", {
          params: { path: { index } },
          body: { setup: setup as never },
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}

/** Every way to wire and connect one amplifier's drivers, each by its own forecast. */
export function useLoadOptions(index: number) {
  const { setup, fresh } = useWork();
  return useQuery({
    queryKey: ["load-options", index, setup],
    queryFn: async () =>
      data(
        await api.POST("/api/load-options/{index}", {
          params: { path: { index } },
          body: { setup: setup as never },
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}
