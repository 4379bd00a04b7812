/**
 * Undo and redo over whole documents. Changes of one path in quick succession are one step; a change of the whole
 * document, whose path is empty, is always one of its own.
 */
export interface History<T> {
  past: T[];
  present: T;
  future: T[];
  last: { path: string; at: number } | null;
}

const ONE_STEP_MS = 1000;
const MOST_STEPS = 200;

export function opened<T>(present: T): History<T> {
  return { past: [], present, future: [], last: null };
}

export function changed<T>(history: History<T>, present: T, path: string, at: number): History<T> {
  const typing = path !== "" && history.last?.path === path;
  const same = typing && at - (history.last?.at ?? 0) < ONE_STEP_MS && history.past.length > 0;
  const past = same ? history.past : [...history.past, history.present].slice(-MOST_STEPS);
  return { past, present, future: [], last: { path, at } };
}

export function undone<T>(history: History<T>): History<T> {
  const before = history.past.at(-1);
  if (before === undefined) return history;
  return {
    past: history.past.slice(0, -1),
    present: before,
    future: [history.present, ...history.future],
    last: null,
  };
}

export function redone<T>(history: History<T>): History<T> {
  const [next, ...later] = history.future;
  if (next === undefined) return history;
  return { past: [...history.past, history.present], present: next, future: later, last: null };
}
