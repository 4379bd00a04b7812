import { same } from "./same";

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

/** Fields of a job that nothing which is worked out depends on, as on the server (`jobs.results.WORDS`). */
const WORDS = new Set(["title", "customer", "vehicle_plate", "tags", "notes", "state"]);
const KEPT = 12;
const stands = new WeakMap<object, object>();
let latest: object[] = [];

/** `identity`, the same for a job that differs in its words alone: a letter in a title asks nothing of the solver. */
export function identityBesideWords(job: object | null): number {
  if (job === null) return 0;
  let like = stands.get(job);
  if (like === undefined) {
    like = latest.find((each) => alikeBesideWords(each, job)) ?? job;
    stands.set(job, like);
    latest = [like, ...latest.filter((each) => each !== like)].slice(0, KEPT);
  }
  return identity(like);
}

/** What was left alone is the same object, but for what the server sent back. */
function alikeBesideWords(one: object, other: object): boolean {
  const [a, b] = [one, other] as Record<string, unknown>[];
  const keys = Object.keys({ ...a, ...b });
  return keys.every((key) => WORDS.has(key) || same(a?.[key], b?.[key]));
}
