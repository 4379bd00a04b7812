import { useId } from "react";

import type { Job } from "../api/client";
import { STATE_WORDS, STATES } from "../jobs/states";
import { Modal } from "../ui/Modal";
import { SelectField } from "./SelectField";
import { TextField } from "./TextField";
import { useWork } from "./WorkContext";
import { Wrong } from "./Wrong";

/** Whose car it is, in a line. */
export function detailsOf(job: Job): string {
  return [job.customer, job.vehicle_plate, STATE_WORDS[job.state], ...job.tags].filter(Boolean).join(" · ");
}

/** Customer, plate, tags, how far the work is, and notes; saved like everything else of the job. */
export function JobDetails({ onClose }: { onClose: () => void }) {
  const { job, change } = useWork();
  const id = useId();
  return (
    <Modal title="About this job" open onClose={onClose} width="max-w-lg" closable>
      <TextField path="title" label="Called" />
      <TextField path="customer" label="Customer" />
      <TextField path="vehicle_plate" label="Plate" />
      <SelectField path="state" label="The work is" options={STATES} />
      <Tags />
      <label htmlFor={id} className="mt-3 block">
        Notes
      </label>
      <textarea
        id={id}
        rows={5}
        className="border-rule bg-paper w-full rounded-sm border p-2"
        value={job.notes}
        onChange={(event) => change("notes", event.target.value)}
      />
    </Modal>
  );
}

/** Tags as they are typed: words between commas. */
function Tags() {
  const { job, problem, change } = useWork();
  const id = useId();
  const wrong = problem?.field.startsWith("tags") ? problem.reason : null;
  return (
    <div className="border-rule border-b py-0.5">
      <div className="flex items-center justify-between gap-2">
        <label htmlFor={id}>Tags, with commas between</label>
        <input
          id={id}
          data-field="tags"
          className="hover:border-rule focus:bg-sheet h-11 min-w-0 flex-1 rounded-sm border border-transparent bg-transparent px-1.5 text-right"
          defaultValue={job.tags.join(", ")}
          aria-invalid={wrong !== null}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          onChange={(event) => change("tags", tagsIn(event.target.value))}
        />
      </div>
      <Wrong id={`${id}-wrong`}>{wrong}</Wrong>
    </div>
  );
}

function tagsIn(text: string): string[] {
  return [...new Set(text.split(",").map((each) => each.trim()))].filter(Boolean);
}
