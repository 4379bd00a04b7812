import { useEffect, useState } from "react";

/** The theme in force, so that a chart is drawn again in its colours when it changes. */
export function useTheme(): string {
  const [theme, setTheme] = useState(document.documentElement.dataset.theme ?? "");
  useEffect(() => {
    const observer = new MutationObserver(() => setTheme(document.documentElement.dataset.theme ?? ""));
    observer.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => observer.disconnect();
  }, []);
  return theme;
}
