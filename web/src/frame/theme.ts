export type Theme = "daylight" | "garage";
const KEY = "under-hood-theme";

/** The theme chosen on this machine; daylight until somebody chooses. */
export function storedTheme(): Theme {
  return localStorage.getItem(KEY) === "garage" ? "garage" : "daylight";
}

/** Show a theme and remember it. */
export function applyTheme(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(KEY, theme);
}
