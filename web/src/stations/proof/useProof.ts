import { api, data, type Job, type ReadingOut } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";
import { useWork } from "../../job/WorkContext";

/** What the readings say of the job as it stands on the page. */
export function useProof(rows: ReadingOut[]) {
  const { id } = useWork();
  const which = rows.map((row) => row.id).join(",");
  return useWorkedOut(["proof", id, which], async (document, signal) =>
    data(await api.POST("/api/v1/proofs", { body: { job: id, document }, signal })),
  );
}

/** What to measure in the car, in the order of fewest ways. */
export function useTestCard() {
  return useWorkedOut(["test-card"], async (document, signal) =>
    data(await api.POST("/api/v1/test-cards", { body: { document }, signal })),
  );
}

/** The job with what the readings told of some fields written into it as measured. */
export async function accept(id: number, document: Job, fields: string[]): Promise<Job> {
  return data(await api.POST("/api/v1/proofs/accepted", { body: { job: id, document, fields } })) as Job;
}
