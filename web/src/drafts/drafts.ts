import { createStore, del, get, set, type UseStore } from "idb-keyval";

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

/** What is kept under a name such as "job:7"; nothing where the browser keeps nothing. */
export async function kept<T>(key: string): Promise<Kept<T> | null> {
  try {
    return (await get<Kept<T>>(key, store())) ?? null;
  } catch {
    return null;
  }
}

/** Keeps it; whether the browser does. */
export async function keep<T>(key: string, what: Kept<T>): Promise<boolean> {
  try {
    await set(key, what, store());
    return true;
  } catch {
    return false;
  }
}

export async function forget(key: string): Promise<void> {
  try {
    await del(key, store());
  } catch {
    // A browser that keeps nothing has nothing to forget.
  }
}

/** The server has this now: of what is kept, only what differs from it still waits. */
export async function arrived<T>(key: string, { version, document }: Stored<T>): Promise<void> {
  const before = await kept<T>(key);
  if (before === null) return;
  const waiting = same(before.document, document) ? null : before.document;
  await keep(key, { ...before, version, document: waiting });
}
