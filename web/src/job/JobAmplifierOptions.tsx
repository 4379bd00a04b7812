import { useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { MOST_CHOICES } from "../bench/useAmplifiers";
import { placeOf } from "./loadOfJob";

/** The amplifiers of all jobs as options of a list. */
export function JobAmplifierOptions({ label }: { label: string }) {
  const jobs = useQuery({
    queryKey: ["jobs", "choices"],
    queryFn: async () =>
      data(await api.GET("/api/v1/jobs", { params: { query: { limit: MOST_CHOICES } } })).items,
  });
  return (
    <optgroup label={label}>
      {jobs.data?.flatMap((job) =>
        job.summary?.amplifiers.map((name, i) => {
          const place = placeOf(job.id, job.summary?.amplifier_ids[i] ?? "");
          return (
            <option key={place} value={place}>
              {job.title}: {name}
            </option>
          );
        }),
      )}
    </optgroup>
  );
}
