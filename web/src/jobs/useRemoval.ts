import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type JobLine } from "../api/client";

/** Asks, removes a job, and puts it back: the server keeps it for a month. */
export function useRemoval(onDone: () => void) {
  const [asking, setAsking] = useState<JobLine | null>(null);
  const [removed, setRemoved] = useState<JobLine | null>(null);
  const removal = useMutation({
    mutationFn: async (job: JobLine) =>
      data(await api.DELETE("/api/v1/jobs/{job_id}", { params: { path: { job_id: job.id } } })),
    onSuccess: (_, job) => {
      setAsking(null);
      setRemoved(job);
      onDone();
    },
  });
  const back = useMutation({
    mutationFn: async (job: JobLine) => {
      const params = { path: { kind: "job", row_id: job.id } };
      return data(await api.POST("/api/v1/removed/{kind}/{row_id}/put-back", { params }));
    },
    onSuccess: () => {
      setRemoved(null);
      onDone();
    },
  });
  return {
    asking,
    ask: (job: JobLine | null) => {
      removal.reset();
      setAsking(job);
    },
    remove: () => asking && removal.mutate(asking),
    busy: removal.isPending,
    refused: removal.error,
    removed,
    bringBack: () => removed && back.mutate(removed),
    failed: back.error,
  };
}
