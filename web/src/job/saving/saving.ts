import { getAt, setAt } from "../../api/quantity";
import { same } from "../../api/same";

/**
 * Saving a document that is being worked on, as a pure machine: what happens goes in, what is to be sent comes out.
 * A refused value holds nothing else up: what is sent has the stored value in its place, while what was typed stays in
 * view and in the draft. Left out: timers, requests and the browser's store (see `useSaving`).
 */

export interface Stored<T> {
  version: number;
  document: T;
}

/** A value that the server does not allow; where it names no field, or its old value helps nothing, all of it waits. */
export interface Refusal {
  path: string;
  value: unknown;
  message: string;
  /** The message without the name of the field. */
  reason: string;
  whole: boolean;
}

export interface Saving<T> {
  stored: Stored<T>;
  present: T;
  /** What is on its way. */
  sent: T | null;
  /** What was sent over the stored version and never answered: any one of these may be what the server has by now. */
  lost: T[];
  refused: Refusal[];
  /** How often nobody answered since the last time that somebody did. */
  missed: number;
  /** What the server said when it could not save, such as that its disk is full; nothing where it said nothing. */
  why: string;
  signedOut: boolean;
  /** What somebody else saved meanwhile, which nothing may be saved over before it was looked at. */
  theirs: Stored<T> | null;
}

export type Happening<T> =
  | { what: "edited"; present: T }
  | { what: "sent"; document: T }
  | { what: "answered"; document: T; version: number }
  | { what: "not allowed"; document: T; path: string; message: string; reason?: string }
  | { what: "saved elsewhere"; theirs: Stored<T> }
  | { what: "no answer"; why?: string }
  | { what: "signed out" }
  | { what: "signed in" }
  | { what: "line is back" }
  | { what: "settled"; present: T };

type NotAllowed<T> = Extract<Happening<T>, { what: "not allowed" }>;

export const SAVE_AFTER_MS = 500;
const LONGEST_WAIT_S = 30;

export function opened<T>(stored: Stored<T>): Saving<T> {
  return {
    stored,
    present: stored.document,
    sent: null,
    lost: [],
    refused: [],
    missed: 0,
    why: "",
    signedOut: false,
    theirs: null,
  };
}

export function next<T>(saving: Saving<T>, event: Happening<T>): Saving<T> {
  switch (event.what) {
    case "edited":
      return { ...saving, present: event.present, refused: stillThere(saving.refused, event.present) };
    case "sent":
      return { ...saving, sent: event.document };
    case "answered":
      return {
        ...saving,
        stored: { version: event.version, document: event.document },
        sent: saving.sent === event.document ? null : saving.sent,
        lost: [],
        missed: 0,
        signedOut: false,
      };
    case "not allowed":
      return { ...saving, ...refusedAs(saving, event), missed: 0 };
    case "saved elsewhere": {
      // The answer to a save of one's own may have been lost on the way: then "theirs" is what was sent.
      const own = [...saving.lost, saving.sent].some(
        (each) => each !== null && same(event.theirs.document, each),
      );
      const answered = { ...saving, sent: null, lost: [], missed: 0 };
      return own ? { ...answered, stored: event.theirs } : { ...answered, theirs: event.theirs };
    }
    case "no answer": {
      const lost = saving.sent === null ? saving.lost : [...saving.lost, saving.sent];
      return { ...saving, sent: null, lost, missed: saving.missed + 1, why: event.why ?? "" };
    }
    case "signed out":
      return { ...saving, sent: null, signedOut: true };
    case "signed in":
      return { ...saving, signedOut: false, missed: 0 };
    case "line is back":
      return { ...saving, missed: Math.min(saving.missed, 1) };
    case "settled":
      if (saving.theirs === null) return saving;
      return {
        ...saving,
        stored: saving.theirs,
        theirs: null,
        present: event.present,
        refused: stillThere(saving.refused, event.present),
      };
  }
}

/** What the server may be given: what was typed, with the stored values where it refuses them; null where all waits. */
export function sendable<T>({ present, refused, stored }: Saving<T>): T | null {
  if (refused.some((each) => each.whole)) return null;
  return refused.reduce((done, { path }) => setAt(done, path, getAt(stored.document, path)), present);
}

/** What is to be sent now, and after how long; null where there is nothing, or nothing may be. */
export function toSend<T>(saving: Saving<T>): { document: T; version: number; afterMs: number } | null {
  if (saving.sent !== null || saving.signedOut || saving.theirs !== null) return null;
  const document = sendable(saving);
  if (document === null || same(document, saving.stored.document)) return null;
  const waitS = saving.missed === 0 ? 0 : Math.min(2 ** (saving.missed - 1), LONGEST_WAIT_S);
  return { document, version: saving.stored.version, afterMs: Math.max(SAVE_AFTER_MS, waitS * 1000) };
}

/** What is still to be sent when the page is left, also while something else is on its way. */
export function leftToSend<T>(saving: Saving<T>): Stored<T> | null {
  const { sent } = saving;
  const due = toSend({ ...saving, sent: null });
  return due === null || (sent !== null && same(due.document, sent)) ? null : due;
}

/** What only this browser has, over which version; null where the server has all of it. */
export function draft<T>(saving: Saving<T>): Stored<T> | null {
  if (same(saving.present, saving.stored.document)) return null;
  return { version: saving.stored.version, document: saving.present };
}

export type SaveState = "clean" | "edited" | "saving" | "refused" | "conflict" | "offline" | "signed out";

export function stateOf<T>(saving: Saving<T>): SaveState {
  if (saving.theirs !== null) return "conflict";
  if (saving.signedOut) return "signed out";
  if (saving.missed > 0) return "offline";
  if (saving.sent !== null) return "saving";
  if (toSend(saving) !== null) return "edited";
  return saving.refused.length > 0 ? "refused" : "clean";
}

function at(document: unknown, path: string): unknown {
  return path === "" ? document : getAt(document, path);
}

function stillThere(refused: Refusal[], present: unknown): Refusal[] {
  const left = refused.filter((each) => at(present, each.path) === each.value);
  return left.length === refused.length ? refused : left;
}

function refusedAs<T>(
  saving: Saving<T>,
  { document, path, message, reason = message }: NotAllowed<T>,
): Pick<Saving<T>, "refused" | "sent"> {
  const sent = saving.sent === document ? null : saving.sent;
  const whole = path === "" || same(at(document, path), at(saving.stored.document, path));
  // What was changed meanwhile is another document, which nobody has refused yet.
  if (whole && !same(document, sendable(saving))) return { sent, refused: saving.refused };
  const refusal = whole
    ? { path: "", value: saving.present, message, reason, whole }
    : { path, value: getAt(document, path), message, reason, whole };
  const known = saving.refused.filter((each) => each.path !== refusal.path);
  // Of a document that was changed meanwhile, only what still stands in it is refused.
  return { sent, refused: stillThere([...known, refusal], saving.present) };
}
