import { useCallback } from "react";
import { useSearchParams } from "react-router";

import { STATES, type JobState } from "./states";

export interface Asked {
  search: string;
  sort: "-updated_at" | "updated_at" | "title" | "-title";
  shown: JobState | "archived" | "";
  tag: string;
}

const SORTS: readonly Asked["sort"][] = ["-updated_at", "updated_at", "title", "-title"];

/** Which jobs are asked for, as the address has it, so that it can be kept, shared and gone back to. */
export function useAsked(): { asked: Asked; ask: (part: Partial<Asked>) => void } {
  const [query, setQuery] = useSearchParams();
  const shown = query.get("shown");
  const asked: Asked = {
    search: query.get("search") ?? "",
    sort: SORTS.find((each) => each === query.get("sort")) ?? "-updated_at",
    shown: shown === "archived" ? shown : (STATES.find(([key]) => key === shown)?.[0] ?? ""),
    tag: query.get("tag") ?? "",
  };
  const ask = useCallback(
    (part: Partial<Asked>) =>
      setQuery(
        (before) => {
          const now = new URLSearchParams(before);
          for (const [key, value] of Object.entries(part)) {
            if (value === "" || value === "-updated_at") now.delete(key);
            else now.set(key, value);
          }
          return now;
        },
        { replace: true },
      ),
    [setQuery],
  );
  return { asked, ask };
}
