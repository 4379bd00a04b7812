import { useMutation } from "@tanstack/react-query";

import { api, data, type Job } from "../api/client";
import { usePages } from "../api/usePages";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Modal } from "../ui/Modal";
import { moment } from "../ui/moments";
import { MoreRows } from "../ui/MoreRows";
import { useWork } from "./WorkContext";

const AT_ONCE = 20;
const MOST_TOLD = 6;

/** Every save of the job with what it changed, in words and figures; any of them can be gone back to. */
export function Revisions({ onClose }: { onClose: () => void }) {
  const { id, version, change } = useWork();
  const saves = usePages(["revisions", id, version, "told"], async (offset, signal) => {
    const params = { path: { job_id: id }, query: { offset, limit: AT_ONCE } };
    return data(await api.GET("/api/v1/jobs/{job_id}/revisions", { params, signal }));
  });
  const restore = useMutation({
    mutationFn: async (of: number) => {
      const params = { path: { job_id: id, version: of } };
      return data(await api.GET("/api/v1/jobs/{job_id}/revisions/{version}", { params })).document as Job;
    },
    onSuccess: (document) => {
      change("", document);
      onClose();
    },
  });
  const problem = restore.error ?? saves.error;
  return (
    <Modal title="Earlier states" open onClose={onClose} width="max-w-2xl" closable>
      <p className="text-soft mt-1">
        Going back is a change like any other: it is saved as a new revision, and can be undone.
      </p>
      {problem && <Complaint>{problem.message}</Complaint>}
      {!saves.rows && !saves.error && <p className="text-soft mt-4">Looking for earlier states …</p>}
      <ol className="mt-3" aria-label="Revisions">
        {saves.rows?.map((each) => (
          <li key={each.version} className="border-rule flex items-start justify-between gap-4 border-t py-2">
            <div className="min-w-0">
              <b>Revision {each.version}</b>{" "}
              <span className="text-soft text-sm">
                {moment(each.saved_at)}
                {each.saved_by && `, ${each.saved_by}`}
              </span>
              <ul className="text-sm">
                {each.changes.slice(0, MOST_TOLD).map((what, i) => (
                  <li key={i}>
                    {what.words}: {what.before} → {what.after}
                  </li>
                ))}
                {each.changes.length > MOST_TOLD && <li>and {each.changes.length - MOST_TOLD} more</li>}
                {each.changes.length === 0 && <li>{each.version === 1 ? "as it began" : "no change"}</li>}
              </ul>
            </div>
            {each.version === version ? (
              <span className="text-soft py-2.5 text-sm whitespace-nowrap">as it is now</span>
            ) : (
              <Button
                disabled={restore.isPending}
                aria-label={`Go back to revision ${each.version}`}
                onClick={() => restore.mutate(each.version)}
              >
                Go back to it
              </Button>
            )}
          </li>
        ))}
      </ol>
      <MoreRows shown={saves.rows?.length ?? 0} count={saves.count} more={saves.more} />
    </Modal>
  );
}
