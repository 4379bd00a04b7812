import { useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { placeOf } from "./loadOfJob";

/** The amplifiers of all jobs as options of a list. */
export function JobAmplifierOptions({ label }: { label: string }) {
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: async () => data(await api.GET("/api/jobs")) });
  return (
    <optgroup label={label}>
      {jobs.data?.flatMap((job) =>
        job.amplifiers.map((name, i) => (
          <option key={`${job.id} ${name}`} value={placeOf(job.id, job.amplifier_ids[i] ?? "")}>
            {job.title}: {name}
          </option>
        )),
      )}
    </optgroup>
  );
}
