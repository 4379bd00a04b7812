import { createContext, useContext } from "react";

import type { Forecast, Job, Problem } from "../api/client";
import type { JobPath } from "../api/path";

export interface Open {
  id: number;
  /** Counts its saves. */
  version: number;
  job: Job;
  /** What its figures are asked for: where a value is refused, the one that is stored stands in it. */
  asked: Job;
  forecast: Forecast | null;
  problem: Problem | null;
  /** Puts a value at a path; at the empty one the whole job. */
  change: (path: JobPath | "", value: unknown) => void;
}

export const WorkContext = createContext<Open | null>(null);

/** The job that is open, for the stations. */
export function useWork(): Open {
  const open = useContext(WorkContext);
  if (!open) throw new Error("useWork needs an open job around it");
  return open;
}
