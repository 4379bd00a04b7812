import { useEffect } from "react";
import { useSearchParams } from "react-router";

import { fieldOf } from "./fieldOf";

const PATIENCE_MS = 8000;
const LOOK_EVERY_MS = 50;

/** Brings the field that the address names as `at` into view and into focus, wherever the station shows it. */
export function useGoTo() {
  const [query, setQuery] = useSearchParams();
  const at = query.get("at");
  useEffect(() => {
    if (at === null) return;
    const until = Date.now() + PATIENCE_MS;
    const timer = setInterval(() => {
      const found = fieldOf(at, document.querySelector("main") ?? document);
      if (!found && Date.now() < until) return;
      clearInterval(timer);
      if (found) {
        for (let up = found.parentElement; up; up = up.parentElement)
          if (up instanceof HTMLDetailsElement) up.open = true;
        found.focus({ preventScroll: true });
        found.scrollIntoView({ block: "center" });
      }
      // The address says it once: to come back here is not to be led there again. It is read anew, for the station may
      // have written into it what was led to.
      const now = new URLSearchParams(window.location.search);
      now.delete("at");
      setQuery(now, { replace: true, preventScrollReset: true });
    }, LOOK_EVERY_MS);
    return () => clearInterval(timer);
  }, [at, setQuery]);
}
