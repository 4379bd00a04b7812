import type { QueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import type { Forecast, Job, Problem } from "../api/client";
import { setAt } from "../api/quantity";
import { WorkContext } from "../job/WorkContext";
import { openPage } from "./page";

interface Options {
  forecast?: Partial<Forecast>;
  problem?: Problem;
  client?: QueryClient;
}

/** Shows something inside an open job; `job()` is the job as it then stands, `changes` what was changed, in order. */
export function openJob(job: object, children: ReactNode, { forecast, problem, client }: Options = {}) {
  let now = job as Job;
  const changes: [string, unknown][] = [];
  function Work() {
    const [held, hold] = useState(now);
    const change = (path: string, value: unknown) => {
      now = setAt(now, path, value);
      changes.push([path, value]);
      hold(now);
    };
    const open = {
      id: 1,
      version: 1,
      job: held,
      asked: held,
      forecast: (forecast ?? null) as Forecast | null,
      problem: problem ?? null,
      change,
    };
    return <WorkContext value={open}>{children}</WorkContext>;
  }
  openPage(<Work />, client);
  return { job: () => now, changes };
}
