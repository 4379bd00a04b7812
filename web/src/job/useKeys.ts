import { useEffect } from "react";

/** Single-key commands. Not while somebody types, and not with Ctrl, Alt or Meta held. */
export function useKeys(keys: Record<string, () => void>) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.altKey || event.metaKey) return;
      if (target.closest("input, select, textarea, [role=dialog], [role=listbox]")) return;
      const action = keys[event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [keys]);
}
