import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Job, type SizesWanted } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";
import { useWork } from "../../job/WorkContext";

/** Sizes for every cable by both bases, the amplifiers' own fuses, the speaker leads. */
export function useCablePlan() {
  return useWorkedOut("cable-options");
}

/** The sizes that are looked at for one cable; those that come first where nothing is wanted. */
export function useCableChoices(index: number, wanted: SizesWanted) {
  return useWorkedOut("cable-options/{index}", index, { sizes: wanted });
}

/** The cut list. */
export function useSchedule() {
  return useWorkedOut("cable-schedules");
}

/** What can be put into the tree or taken out of it, and doing it. */
export function useLayout() {
  const { job, change } = useWork();
  const offers = useWorkedOut("cable-edits");
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
  return { offers: offers.data?.offers ?? [], make };
}
