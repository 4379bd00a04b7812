import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, type JobLine } from "../api/client";
import { forget } from "../drafts/drafts";

const UNDO_MS = 8000;

/** Deletes a job a moment after it was asked for, so that it can be taken back; leaving the page does it at once. */
export function useRemoval(onDone: () => void) {
  const [leaving, setLeaving] = useState<JobLine | null>(null);
  const removal = useMutation({
    mutationFn: async (job: JobLine) => {
      await api.DELETE("/api/v1/jobs/{job_id}", { params: { path: { job_id: job.id } }, keepalive: true });
      await forget(`job:${job.id}`);
    },
    onSettled: onDone,
  });
  const { mutate } = removal;
  const kept = useRef<() => void>(() => undefined);
  useEffect(() => () => kept.current(), []);
  useEffect(() => {
    if (!leaving) return;
    let done = false;
    const now = () => {
      if (!done) mutate(leaving);
      done = true;
    };
    const timer = setTimeout(() => {
      now();
      setLeaving(null);
    }, UNDO_MS);
    window.addEventListener("pagehide", now);
    kept.current = now;
    return () => {
      clearTimeout(timer);
      window.removeEventListener("pagehide", now);
    };
  }, [leaving, mutate]);
  return {
    leaving,
    failed: removal.error,
    remove: (job: JobLine) => {
      kept.current(); // one at a time: the one before goes now
      setLeaving(job);
    },
    bringBack: () => {
      kept.current = () => undefined;
      setLeaving(null);
    },
  };
}
