import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { useWork } from "../job/WorkContext";

/** Reserves, classes side by side, and what gives first; asked for after the path itself. */
export function useSupplyReport() {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["supply-report", job],
    queryFn: async () => data(await api.POST("/api/v1/supply-reports", { body: { document: job } })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}
