export const PAGES = [
  ["customer", "For the customer"],
  ["wiring", "Wiring"],
  ["schedule", "Cable schedule and fuses"],
  ["set_up", "Set-up"],
  ["test_card", "Test card"],
  ["appendix", "Engineer's appendix"],
] as const;

export type Page = (typeof PAGES)[number][0];

/** A plan that was found: the search, and its name among what that found. */
export interface ChosenPlan {
  plan: number | null;
  name: string;
}

/** Where the chosen pages of a job are read, and where they are as PDF. */
export function sheetAddress(id: number, pages: readonly Page[], { plan, name }: ChosenPlan) {
  const query = new URLSearchParams(pages.map((page) => ["pages", page]));
  if (plan !== null) {
    query.set("plan", String(plan));
    query.set("name", name);
  }
  return { html: `/api/v1/jobs/${id}/sheet?${query}`, pdf: `/api/v1/jobs/${id}/sheet.pdf?${query}` };
}
