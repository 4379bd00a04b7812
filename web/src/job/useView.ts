import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** One of a few words that the address has under a name, so that what is in view can be shared and reloaded. */
export function useView<T extends string>(
  name: string,
  options: readonly (readonly [T, string])[],
  first: T,
): [T, (value: T) => void] {
  const [query, setQuery] = useSearchParams();
  const asked = query.get(name);
  const value = options.find(([key]) => key === asked)?.[0] ?? first;
  const set = useCallback(
    (next: T) =>
      setQuery(
        (before) => {
          const now = new URLSearchParams(before);
          if (next === first) now.delete(name);
          else now.set(name, next);
          return now;
        },
        { replace: true },
      ),
    [setQuery, name, first],
  );
  return [value, set];
}
