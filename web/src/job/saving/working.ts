import { setAt } from "../../api/quantity";
import { same } from "../../api/same";
import { changed, redone, undone, type History } from "../history";
import { completed, STEPS_KEPT, type Kept } from "../../drafts/drafts";
import { draft, next, opened, type Happening, type Saving, type Stored } from "./saving";

/** A document that is worked on: its steps to undo, and how its saving stands. */
export interface Working<T> {
  history: History<T>;
  saving: Saving<T>;
  /** When what was brought back from this browser was typed; null where nothing was, or it was looked at. */
  broughtBack: number | null;
}

export type Step<T> =
  | { do: "open"; working: Working<T> }
  | { do: "change"; path: string; value: unknown; at: number }
  | { do: "undo" }
  | { do: "redo" }
  | { do: "throw away" }
  | { do: "keep" }
  | { do: "happened"; event: Happening<T> };

/** As it was left: what the server has, with what only this browser has over it; `base` is what that was changed from. */
export function resumed<T extends object>(
  stored: Stored<T>,
  draft: Kept<T> | null,
  base: T | null,
): Working<T> {
  const kept = draft && completed(draft, stored.document);
  const clean: Working<T> = {
    history: { past: [], present: stored.document, future: [], last: null },
    saving: opened(stored),
    broughtBack: null,
  };
  if (kept === null) return clean;
  const waiting = kept.document !== null && !same(kept.document, stored.document) ? kept.document : null;
  if (waiting === null) {
    if (kept.version !== stored.version && kept.document === null) return clean;
    return { ...clean, history: { ...clean.history, past: kept.past, future: kept.future } };
  }
  const history = { past: kept.past, present: waiting, future: kept.future, last: null };
  const from =
    kept.version === stored.version ? stored : { version: kept.version, document: base ?? stored.document };
  const edited = next(opened(from), { what: "edited", present: waiting });
  const saving = from === stored ? edited : next(edited, { what: "saved elsewhere", theirs: stored });
  return { history, saving, broughtBack: kept.at };
}

/** What this browser is to keep of it. */
export function toKeep<T>({ history, saving }: Working<T>): Kept<T> {
  return {
    version: saving.stored.version,
    document: draft(saving)?.document ?? null,
    past: history.past.slice(-STEPS_KEPT),
    future: history.future.slice(0, STEPS_KEPT),
    at: Date.now(),
  };
}

export function step<T>(working: Working<T> | null, action: Step<T>): Working<T> | null {
  if (action.do === "open") return action.working;
  if (working === null) return null;
  const { history, saving } = working;
  switch (action.do) {
    case "change":
      return edited(
        working,
        changed(history, setAt(history.present, action.path, action.value), action.path, action.at),
      );
    case "undo":
      return edited(working, undone(history));
    case "redo":
      return edited(working, redone(history));
    case "keep":
      return { ...working, broughtBack: null };
    case "throw away": {
      const thrown = { ...working, broughtBack: null };
      const { theirs } = saving;
      if (theirs)
        return step(thrown, { do: "happened", event: { what: "settled", present: theirs.document } });
      return edited(thrown, changed(history, saving.stored.document, "", Date.now()));
    }
    case "happened": {
      const after = next(saving, action.event);
      const taken =
        after.present === history.present ? history : changed(history, after.present, "", Date.now());
      return { ...working, history: taken, saving: after };
    }
  }
}

function edited<T>(working: Working<T>, history: History<T>): Working<T> {
  if (history.present === working.history.present) return { ...working, history };
  return { ...working, history, saving: next(working.saving, { what: "edited", present: history.present }) };
}
