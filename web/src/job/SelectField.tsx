import { useId } from "react";

import type { JobPath } from "../api/path";
import { getAt } from "../api/quantity";
import { Select } from "../ui/Select";
import { useWork } from "./WorkContext";
import { Wrong } from "./Wrong";
import { Terms } from "../guide/Terms";

interface Props {
  path: JobPath;
  label: string;
  options: readonly (readonly [string, string])[];
  /** What holds where the file says nothing. */
  fallback?: string;
  /** Where a choice sets more than the field itself. */
  onPick?: (value: string) => void;
}

/** A choice from a list, of a field of the job file that is a text, or by `onPick` a number. */
export function SelectField({ path, label, options, fallback = "", onPick }: Props) {
  const { job, problem, change } = useWork();
  const id = useId();
  const value = getAt(job, path);
  const wrong = problem?.field === path ? problem.reason : null;
  return (
    <div className="border-rule border-b py-1">
      <label htmlFor={id} className="text-soft block text-sm">
        <Terms beside>{label}</Terms>
      </label>
      <Select
        id={id}
        data-field={path}
        className="w-full"
        value={typeof value === "string" || typeof value === "number" ? String(value) : fallback}
        onChange={(event) => (onPick ?? ((picked) => change(path, picked)))(event.target.value)}
        aria-invalid={wrong !== null}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
      >
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Select>
      <Wrong id={`${id}-wrong`}>{wrong}</Wrong>
    </div>
  );
}
