import { useEffect } from "react";

const TYPED_IN = "input:not([type=checkbox]):not([type=radio]), select, textarea";

/**
 * Single-key commands, and those with Ctrl (or the Mac's command key) written as "Ctrl+z". Not while somebody types or
 * something stands over the page; Escape leaves a field first, so that the keys are at hand again.
 */
export function useKeys(keys: Record<string, () => void>) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.altKey || target.closest("[role=dialog], [role=listbox]")) return;
      if (target.closest(TYPED_IN)) {
        if (event.key === "Escape") target.blur();
        return;
      }
      const held = event.ctrlKey || event.metaKey;
      const action = keys[held ? `Ctrl+${event.key}` : event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [keys]);
}
