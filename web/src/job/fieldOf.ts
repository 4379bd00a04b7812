/**
 * The field on the page for a path of the job file, or the nearest one that belongs to it: a flag may be about a whole
 * part, or about a value that is shown with its part. Fields carry their path as `data-field`.
 */
export function fieldOf(path: string, root: ParentNode = document): HTMLElement | null {
  const fields = [...root.querySelectorAll<HTMLElement>("[data-field]")];
  const at = (field: HTMLElement) => field.dataset.field ?? "";
  for (let way = path; way !== ""; way = way.split(".").slice(0, -1).join(".")) {
    const inside = `${way}.`;
    const found =
      fields.find((each) => at(each) === way) ?? fields.find((each) => at(each).startsWith(inside));
    if (found) return found;
  }
  return null;
}
