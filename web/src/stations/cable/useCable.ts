import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Job } from "../../api/client";
import { identity } from "../../api/identity";
import { useWork } from "../../job/WorkContext";

const KEPT_MS = 60_000;

/** Sizes for every cable by both bases, the amplifiers' own fuses, the speaker leads; asked for after the path. */
export function useCablePlan() {
  const { setup, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-plan", identity(setup)],
    queryFn: async ({ signal }) => data(await api.POST("/api/cable-plan", { body: { setup }, signal })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}

/** Every size for one cable. */
export function useCableChoices(index: number) {
  const { setup, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-choices", identity(setup), index],
    queryFn: async ({ signal }) =>
      data(
        await api.POST("/api/cable-choices/{index}", {
          params: { path: { index } },
          body: { setup },
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
  const { setup, fresh } = useWork();
  return useQuery({
    queryKey: ["cable-schedule", identity(setup)],
    queryFn: async ({ signal }) => data(await api.POST("/api/cable-schedule", { body: { setup }, signal })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
}

/** What can be put into the tree or taken out of it, and doing it. */
export function useLayout() {
  const { setup, fresh, change } = useWork();
  const offers = useQuery({
    queryKey: ["cable-layout", identity(setup)],
    queryFn: async ({ signal }) => data(await api.POST("/api/cable-layout", { body: { setup }, signal })),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
  const latest = useRef(setup);
  useEffect(() => {
    latest.current = setup;
  });
  const make = useMutation({
    mutationFn: async (key: string) => {
      // Made of the setup as it is when the answer comes: what was typed meanwhile is kept.
      for (;;) {
        const of = latest.current;
        const job = data(await api.POST("/api/cable-layout/change", { body: { setup: of, key } })) as Job;
        if (latest.current === of) return job;
      }
    },
    onSuccess: (job) => change("", job),
  });
  return { offers: offers.data ?? [], make };
}
