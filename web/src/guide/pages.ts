/** The guide's pages in the order in which they are read; each is a file of docs/guide. */
export const PAGES = [
  ["steps", "Ten steps"],
  ["multimeter", "Multimeter and clamp"],
  ["disagrees", "When the car disagrees"],
  ["schools", "Schools"],
  ["model", "Formulas"],
  ["cautions", "Cautions"],
  ["glossary", "Glossary"],
] as const;

/** Where a link of a page leads inside the application: the pages link to each other as files. */
export function insideOf(href: string): string | null {
  const found = /^(\w+)\.md(#.*)?$/.exec(href);
  return found && PAGES.some(([key]) => key === found[1]) ? `/guide/${found[1]}${found[2] ?? ""}` : null;
}
