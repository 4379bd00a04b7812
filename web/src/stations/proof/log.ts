import { isRefusal, type Asked } from "../../api/client";

/** A reading on its way: as it was typed, under a key of its own, so that sending it twice stores it once. */
export interface Waiting {
  key: string;
  asked: Asked;
  /** As typed: "350m", "14,2". */
  value: string;
  meter: string;
  meter_range: number | null;
  by: string;
  note: string;
  excluded: boolean;
  taken_at: string;
  /** The stored reading that it corrects. */
  replaces: number | null;
  /** Why the server does not take it; it waits for another value. */
  refused: string;
}

/** What is typed at the card and not sent yet, and who reads with what. */
export interface Log {
  waiting: Waiting[];
  /** By the place of a reading on the card. */
  typed: Record<string, string>;
  by: string;
  volts: string;
  clamp: string;
  clampRange: string;
  /** VISA address of an instrument that reads for one; empty where somebody reads. */
  instrument: string;
  confirmed: string[];
}

export const EMPTY_LOG: Log = {
  waiting: [],
  typed: {},
  by: "",
  volts: "",
  clamp: "",
  clampRange: "",
  instrument: "",
  confirmed: [],
};

type Happened =
  | { did: "type"; place: string; text: string }
  | { did: "take"; waiting: Waiting; place: string | null }
  | { did: "stored"; key: string }
  | { did: "refused"; key: string; why: string }
  | { did: "drop"; key: string }
  | { did: "again"; key: string; value: string }
  | {
      did: "set";
      part: Partial<Pick<Log, "by" | "volts" | "clamp" | "clampRange" | "instrument" | "confirmed">>;
    };

/** The log after something happened; nothing that was typed is lost but what was dropped by choice. */
export function after(log: Log, event: Happened): Log {
  const each = (key: string, change: (one: Waiting) => Waiting) =>
    log.waiting.map((one) => (one.key === key ? change(one) : one));
  switch (event.did) {
    case "type":
      return { ...log, typed: { ...log.typed, [event.place]: event.text } };
    case "take": {
      const typed = Object.fromEntries(Object.entries(log.typed).filter(([place]) => place !== event.place));
      return { ...log, typed, waiting: [...log.waiting, event.waiting] };
    }
    case "stored":
    case "drop":
      return { ...log, waiting: log.waiting.filter((one) => one.key !== event.key) };
    case "refused":
      return { ...log, waiting: each(event.key, (one) => ({ ...one, refused: event.why })) };
    case "again":
      return { ...log, waiting: each(event.key, (one) => ({ ...one, value: event.value, refused: "" })) };
    case "set":
      return { ...log, ...event.part };
  }
}

/**
 * What this browser keeps: what waits here, and what another page of the same job has waiting.
 *
 * gone   keys that this page has seen stored or dropped
 */
export function keptTogether(found: Log | null, mine: Log, gone: ReadonlySet<string>): Log {
  const here = new Set(mine.waiting.map((one) => one.key));
  const elsewhere = (found?.waiting ?? []).filter((one) => !here.has(one.key) && !gone.has(one.key));
  return { ...mine, waiting: [...elsewhere, ...mine.waiting] };
}

/** The one that is sent next: the oldest that nothing was said against. */
export function nextToSend(log: Log): Waiting | null {
  return log.waiting.find((one) => one.refused === "") ?? null;
}

/** Milliseconds until it is tried again after so many tries that nobody answered. */
export function retryMs(tries: number): number {
  return Math.min(1000 * 2 ** tries, 30_000);
}

/** What the server said against a reading, or null where it has to be sent again. */
export function refusalOf(error: unknown): string | null {
  return isRefusal(error) ? error.reason : null;
}

/** Where a reading stands on the card: two of one place are readings of the same thing. */
export function placeOf(asked: Asked): string {
  const { what, from, to, amplifier, engine, programme, hold, side, load } = asked;
  return [what, from, to, amplifier, engine, programme, hold, side, load].map((one) => one ?? "").join("|");
}
