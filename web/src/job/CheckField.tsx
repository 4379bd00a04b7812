import type { JobPath } from "../api/path";
import { getAt } from "../api/quantity";
import { useWork } from "./WorkContext";
import { Terms } from "../guide/Terms";

/** A yes or no of the job file. */
export function CheckField({ path, label }: { path: JobPath; label: string }) {
  const { job, change } = useWork();
  return (
    <label className="border-rule flex min-h-11 items-center justify-between gap-2 border-b">
      <Terms beside>{label}</Terms>
      <input
        type="checkbox"
        className="size-5"
        checked={getAt(job, path) === true}
        onChange={(event) => change(path, event.target.checked)}
      />
    </label>
  );
}
