import { api, data } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";

/** One amplifier's load over frequency, why its watts are fewer, and its heat. */
export function useLoadCurves(index: number) {
  return useWorkedOut(["load-curves", index], async (document, signal) => {
    const params = { path: { index } };
    return data(await api.POST("/api/v1/load-curves/{index}", { params, body: { document }, signal }));
  });
}

/** Every way to wire and connect one amplifier's drivers, each by its own forecast. */
export function useLoadOptions(index: number) {
  return useWorkedOut(["load-options", index], async (document, signal) => {
    const params = { path: { index } };
    return data(await api.POST("/api/v1/wiring-options/{index}", { params, body: { document }, signal }));
  });
}
