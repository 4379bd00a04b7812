import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Job } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";
import { useWork } from "../../job/WorkContext";

/** Sizes for every cable by both bases, the amplifiers' own fuses, the speaker leads. */
export function useCablePlan() {
  return useWorkedOut(["cable-plan"], async (document, signal) =>
    data(await api.POST("/api/v1/cable-options", { body: { document }, signal })),
  );
}

/** Every size for one cable. */
export function useCableChoices(index: number) {
  return useWorkedOut(["cable-choices", index], async (document, signal) => {
    const params = { path: { index } };
    return data(await api.POST("/api/v1/cable-options/{index}", { params, body: { document }, signal }));
  });
}

/** The cut list. */
export function useSchedule() {
  return useWorkedOut(["cable-schedule"], async (document, signal) =>
    data(await api.POST("/api/v1/cable-schedules", { body: { document }, signal })),
  );
}

/** What can be put into the tree or taken out of it, and doing it. */
export function useLayout() {
  const { job, change } = useWork();
  const offers = useWorkedOut(["cable-layout"], async (document, signal) => {
    return data(await api.POST("/api/v1/cable-edits", { body: { document }, signal })).offers;
  });
  const latest = useRef(job);
  useEffect(() => {
    latest.current = job;
  });
  const make = useMutation({
    mutationFn: async (key: string) => {
      // Made of the job as it is when the answer comes: what was typed meanwhile is kept.
      for (;;) {
        const of = latest.current;
        const job = data(await api.POST("/api/v1/cable-edits/made", { body: { document: of, key } })) as Job;
        if (latest.current === of) return job;
      }
    },
    onSuccess: (job) => change("", job),
  });
  return { offers: offers.data ?? [], make };
}
