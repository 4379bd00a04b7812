import { useId } from "react";

import type { JobPath } from "../api/path";
import { getAt } from "../api/quantity";
import { useWork } from "./WorkContext";
import { Wrong } from "./Wrong";
import { Terms } from "../guide/Terms";

interface Props {
  path: JobPath;
  label: string;
  hint?: string;
  /** Whether it is a figure, such as a size, and not a name. */
  figure?: boolean;
}

/** A word of the job file, taken over as it is typed; what the server cannot read is said at the field. */
export function TextField({ path, label, hint, figure = false }: Props) {
  const { job, problem, change } = useWork();
  const id = useId();
  const value = getAt(job, path);
  const wrong = problem?.field === path ? problem.reason : null;
  const told = [hint && `${id}-hint`, wrong && `${id}-wrong`].filter(Boolean).join(" ");
  return (
    <div className="border-rule border-b py-0.5">
      <div className="flex items-center justify-between gap-2">
        <label htmlFor={id}>
          <Terms beside>{label}</Terms>
        </label>
        <input
          id={id}
          data-field={path}
          className={`focus:bg-sheet h-11 min-w-0 flex-1 rounded-sm border bg-transparent px-1.5 text-right ${figure ? "figure" : ""} ${wrong ? "border-vermilion" : "hover:border-rule border-transparent"}`}
          value={typeof value === "string" ? value : ""}
          onChange={(event) => change(path, event.target.value)}
          aria-invalid={wrong !== null}
          aria-describedby={told || undefined}
        />
      </div>
      {hint && (
        <p id={`${id}-hint`} className="text-soft text-xs">
          {hint}
        </p>
      )}
      <Wrong id={`${id}-wrong`}>{wrong}</Wrong>
    </div>
  );
}
