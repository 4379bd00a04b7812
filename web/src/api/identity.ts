const numbers = new WeakMap<object, number>();
let last = 0;

/**
 * A number for a document, the same as long as it is the same object. Documents are never changed in place, so it stands
 * for the contents, and a query keyed by it need not be compared by reading fifty kilobytes at every repaint.
 */
export function identity(document: object | null): number {
  if (document === null) return 0;
  let number = numbers.get(document);
  if (number === undefined) {
    number = last += 1;
    numbers.set(document, number);
  }
  return number;
}
