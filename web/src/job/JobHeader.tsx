import { useState } from "react";

import type { Job } from "../api/client";
import { Choice } from "../ui/Choice";
import { detailsOf, JobDetails } from "./JobDetails";
import { ENGINES, PLAYED, type Played } from "./playing";
import { SaveNote } from "./SaveNote";
import type { Work } from "./useJob";

interface Props {
  work: Work;
  job: Job;
  played: Played;
  onPlay: (what: Played) => void;
}

/** What the job is, whose, how its saving stands, and the state of the car that all figures are for. */
export function JobHeader({ work, job, played, onPlay }: Props) {
  const [details, setDetails] = useState(false);
  const about = detailsOf(job);
  return (
    <header className="border-rule flex flex-wrap items-center justify-between gap-x-6 gap-y-1 border-b px-5 py-1.5 print:hidden">
      <div className="flex min-w-0 flex-wrap items-baseline gap-x-4">
        <h1 className="max-w-full">
          <span className="sr-only">{job.title}</span>
          <input
            aria-label="Title of the job"
            data-field="title"
            className="hover:border-rule focus:bg-sheet h-11 max-w-full rounded-sm border border-transparent bg-transparent px-1 text-xl font-bold"
            size={Math.max(job.title.length, 12)}
            value={job.title}
            onChange={(event) => work.change("title", event.target.value)}
          />
        </h1>
        <button
          className="text-soft hover:text-ink min-h-11 max-w-72 truncate text-sm underline decoration-dotted underline-offset-4"
          aria-label={`About this job: ${about}`}
          onClick={() => setDetails(true)}
        >
          {about}
        </button>
        <SaveNote work={work} />
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 max-sm:gap-x-2">
        <Choice
          label="Engine"
          terse
          value={job.basis.engine}
          options={ENGINES}
          onChange={(value) => work.change("basis.engine", value)}
        />
        <Choice label="Playing" terse value={played} options={PLAYED} onChange={onPlay} />
      </div>
      {details && <JobDetails onClose={() => setDetails(false)} />}
    </header>
  );
}
