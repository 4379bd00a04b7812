import { api, data } from "../api/client";
import { useWorkedOut } from "../job/useWorkedOut";

/** Reserves, classes side by side, and what gives first. */
export function useSupplyReport() {
  return useWorkedOut(["supply-report"], async (document, signal) =>
    data(await api.POST("/api/v1/supply-reports", { body: { document }, signal })),
  );
}
