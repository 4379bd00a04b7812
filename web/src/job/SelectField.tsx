import { useId } from "react";

import { getAt } from "../api/quantity";
import { useWork } from "./WorkContext";

interface Props {
  path: string;
  label: string;
  options: readonly (readonly [string, string])[];
  /** What holds where the file says nothing. */
  fallback?: string;
  /** Where a choice sets more than the field itself. */
  onPick?: (value: string) => void;
}

/** A choice from a list, of a text field of the job file. */
export function SelectField({ path, label, options, fallback = "", onPick }: Props) {
  const { job, problem, change } = useWork();
  const id = useId();
  const value = getAt(job, path) as string | null | undefined;
  const wrong = problem?.field === path ? problem.message : null;
  return (
    <div className="border-rule border-b py-1">
      <label htmlFor={id} className="text-soft block text-sm">
        {label}
      </label>
      <select
        id={id}
        className="border-rule bg-sheet h-11 w-full rounded-sm border px-2"
        value={value ?? fallback}
        onChange={(event) => (onPick ?? ((picked) => change(path, picked)))(event.target.value)}
        aria-invalid={wrong !== null}
      >
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      {wrong && (
        <p role="alert" className="text-vermilion text-sm">
          <span aria-hidden>◆ </span>
          {wrong}
        </p>
      )}
    </div>
  );
}
