import { api, data, type Job, type ReadingOut } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";
import { useWork } from "../../job/WorkContext";

/** What the readings say of the job as it stands on the page. */
export function useProof(rows: ReadingOut[]) {
  const { id } = useWork();
  return useWorkedOut("proofs", 0, { job: id }, rows.map((row) => row.id).join(","));
}

/** What to measure in the car, in the order of fewest ways. */
export function useTestCard() {
  return useWorkedOut("test-cards");
}

/** The job with what the readings told of some fields written into it as measured. */
export async function accept(id: number, document: Job, fields: string[]): Promise<Job> {
  return data(await api.POST("/api/v1/proofs/accepted", { body: { job: id, document, fields } })) as Job;
}
