import { useWorkedOut } from "../../job/useWorkedOut";

/** One amplifier's load over frequency, why its watts are fewer, and its heat. */
export function useLoadCurves(index: number) {
  return useWorkedOut("load-curves/{index}", index);
}

/** Every way to wire and connect one amplifier's drivers, each by its own forecast. */
export function useLoadOptions(index: number) {
  return useWorkedOut("wiring-options/{index}", index);
}
