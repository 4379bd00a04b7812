import { createStore, del, get, set, update, type UseStore } from "idb-keyval";

import { same } from "../api/same";
import type { Stored } from "../job/saving/saving";

/** What this browser keeps of a document: what the server does not have yet, and the steps to undo. */
export interface Kept<T> {
  /** The version that it was changed from. */
  version: number;
  /** Null where the server has all of it. */
  document: T | null;
  past: T[];
  future: T[];
  at: number;
}

/** Steps of undo that are kept over a reload; all of them would be megabytes at every keystroke. */
export const STEPS_KEPT = 20;

let opened: UseStore | null = null;
const store = () => (opened ??= createStore("under-hood", "drafts"));

/**
 * What is kept as this program has it: a draft may be of an older one, which did not know a field yet. What it lacks is
 * as the server has it.
 */
export function completed<T extends object>(kept: Kept<T>, stored: T): Kept<T> {
  const whole = (document: T) => ({ ...stored, ...document });
  return {
    ...kept,
    document: kept.document && whole(kept.document),
    past: kept.past.map(whole),
    future: kept.future.map(whole),
  };
}

/** What is on its way into the store. A browser drops a write that is not done when its page is left. */
const unfinished = new Map<string, Kept<unknown>>();
const leftAt = (key: string) => `under-hood:left:${key}`;

/** Puts what is unfinished where it stands at once; there is little room there, so without the steps to undo. */
function leave() {
  for (const [key, what] of unfinished) {
    try {
      localStorage.setItem(leftAt(key), JSON.stringify({ ...what, past: [], future: [] }));
    } catch {
      // A browser without room has what its store took.
    }
  }
}
window.addEventListener("pagehide", leave);

/** Takes what a page left behind into the store, where that has nothing later. */
async function takeIn(key: string): Promise<void> {
  const left = localStorage.getItem(leftAt(key));
  if (left === null) return;
  const what = JSON.parse(left) as Kept<unknown>;
  await update<Kept<unknown>>(
    key,
    (before) => (before && before.at > what.at ? before : { ...what, past: before?.past ?? [] }),
    store(),
  );
  localStorage.removeItem(leftAt(key));
}

/** What is kept under a name such as "job:7"; nothing where the browser keeps nothing. */
export async function kept<T>(key: string): Promise<Kept<T> | null> {
  try {
    // What a page left behind, where it can be read, must not hide what the store has.
    await takeIn(key).catch(() => undefined);
    return (await get<Kept<T>>(key, store())) ?? null;
  } catch {
    return null;
  }
}

/** Keeps it; whether the browser does. */
export async function keep<T>(key: string, what: Kept<T>): Promise<boolean> {
  unfinished.set(key, what);
  try {
    await set(key, what, store());
    return true;
  } catch {
    return false;
  } finally {
    if (unfinished.get(key) === what) unfinished.delete(key);
  }
}

export async function forget(key: string): Promise<void> {
  unfinished.delete(key);
  try {
    localStorage.removeItem(leftAt(key));
    await del(key, store());
  } catch {
    // A browser that keeps nothing has nothing to forget.
  }
}

/** The server has this now: of what is kept, only what differs from it still waits. */
export async function arrived<T>(key: string, { version, document }: Stored<T>): Promise<void> {
  if ((await kept<T>(key)) === null) return;
  // In one transaction: what is typed meanwhile is kept after it or seen by it.
  await update<Kept<T>>(
    key,
    (before = { version, document: null, past: [], future: [], at: Date.now() }) => ({
      ...before,
      version,
      document: same(before.document, document) ? null : before.document,
    }),
    store(),
  ).catch(() => undefined);
}
