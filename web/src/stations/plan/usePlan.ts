import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type Job, type PlanOut } from "../../api/client";

const ASK_EVERY_MS = 500;

export function isRunning(plan: PlanOut | null | undefined): boolean {
  return plan?.status === "waiting" || plan?.status === "running";
}

/**
 * The latest search for a job's plan. It runs on the server: the page that asked may be closed and opened again.
 *
 * id        of the job
 * version   counts its saves: whether what was found is still of this job is asked after each
 */
export function usePlan(id: number, version: number) {
  const client = useQueryClient();
  const key = ["plan", id];
  const latest = useQuery({
    queryKey: [...key, version],
    queryFn: async ({ signal }) => {
      const query = { job: id, limit: 1 };
      return data(await api.GET("/api/v1/plans", { params: { query }, signal })).items[0] ?? null;
    },
    placeholderData: (before) => before,
    refetchInterval: (query) => (isRunning(query.state.data) ? ASK_EVERY_MS : false),
  });
  const again = () => client.invalidateQueries({ queryKey: key });
  const start = useMutation({
    mutationFn: async ({ document, budget }: { document: Job; budget: number }) =>
      data(await api.POST("/api/v1/plans", { body: { document, budget, job: id } })),
    onSuccess: again,
  });
  const cancel = useMutation({
    mutationFn: async (plan: PlanOut) =>
      data(await api.POST("/api/v1/plans/{plan_id}/cancel", { params: { path: { plan_id: plan.id } } })),
    onSuccess: again,
  });
  return { latest, start, cancel };
}
