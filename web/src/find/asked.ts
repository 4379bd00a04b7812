/** What the window is told when somebody wants to find something. */
export const FIND = "under-hood-find";

export function find() {
  window.dispatchEvent(new Event(FIND));
}
