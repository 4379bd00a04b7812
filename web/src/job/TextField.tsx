import { useId, useState } from "react";

import { getAt } from "../api/quantity";
import { useWork } from "./WorkContext";

/** A word of the job file, taken over as it is typed; what the server cannot read is said at the field. */
export function TextField({ path, label, hint }: { path: string; label: string; hint: string }) {
  const { job, problem, change } = useWork();
  const id = useId();
  const stored = (getAt(job, path) as string | null | undefined) ?? "";
  const [draft, setDraft] = useState<string | null>(null);
  const wrong = problem && path.endsWith(problem.field.split(".").at(-1) ?? "?") ? problem.message : null;
  return (
    <div className="border-rule border-b py-2">
      <div className="flex items-baseline justify-between gap-2">
        <label htmlFor={id}>{label}</label>
        <input
          id={id}
          className={`figure focus:bg-sheet h-9 min-w-0 flex-1 rounded-sm border bg-transparent px-1.5 text-right ${wrong ? "border-vermilion" : "hover:border-rule border-transparent"}`}
          value={draft ?? stored}
          onChange={(event) => {
            setDraft(event.target.value);
            change(path, event.target.value);
          }}
          onBlur={() => setDraft(null)}
          aria-invalid={wrong !== null}
          aria-describedby={`${id}-hint`}
        />
      </div>
      <p id={`${id}-hint`} className={wrong ? "text-vermilion text-sm" : "text-soft text-xs"}>
        {wrong ?? hint}
      </p>
    </div>
  );
}
