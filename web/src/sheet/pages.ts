export const PAGES = [
  ["customer", "For the customer"],
  ["wiring", "Wiring"],
  ["schedule", "Cable schedule and fuses"],
  ["set_up", "Set-up"],
  ["test_card", "Test card"],
  ["appendix", "Engineer's appendix"],
] as const;

export type Page = (typeof PAGES)[number][0];

/** Where the chosen pages of a job are read, and where they are as PDF. */
export function sheetAddress(id: number, pages: readonly Page[], steps: readonly string[]) {
  const query = new URLSearchParams();
  for (const page of pages) query.append("pages", page);
  for (const step of steps) query.append("steps", step);
  return { html: `/api/v1/jobs/${id}/sheet?${query}`, pdf: `/api/v1/jobs/${id}/sheet.pdf?${query}` };
}
