import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Job } from "../../api/client";
import { identity } from "../../api/identity";
import { useWork } from "../../job/WorkContext";

const KEPT_MS = 60_000;

/** Sizes for every cable by both bases, the amplifiers' own fuses, the speaker leads; asked for after the path. */
export function useCablePlan() {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-plan", identity(job)],
    queryFn: async ({ signal }) =>
      data(await api.POST("/api/v1/cable-options", { body: { document: job }, signal })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}

/** Every size for one cable. */
export function useCableChoices(index: number) {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-choices", identity(job), index],
    queryFn: async ({ signal }) =>
      data(
        await api.POST("/api/v1/cable-options/{index}", {
          params: { path: { index } },
          body: { document: job },
          signal,
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}

/** The cut list. */
export function useSchedule() {
  const { job, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-schedule", identity(job)],
    queryFn: async ({ signal }) =>
      data(await api.POST("/api/v1/cable-schedules", { body: { document: job }, signal })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}

/** What can be put into the tree or taken out of it, and doing it. */
export function useLayout() {
  const { job, fresh, change } = useWork();
  const offers = useQuery({
    queryKey: ["cable-layout", identity(job)],
    queryFn: async ({ signal }) =>
      data(await api.POST("/api/v1/cable-edits", { body: { document: job }, signal })).offers,
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
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
