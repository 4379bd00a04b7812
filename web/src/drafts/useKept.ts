import { useCallback, useEffect, useRef, useState } from "react";

import { same } from "../api/same";
import { completed, forget, keep, kept } from "./drafts";

export interface KeptState<T> {
  value: T;
  /** The version that it was changed from, which it is to be saved over. */
  version: number;
  changed: boolean;
  /** When what this browser brought back was typed; null where it brought nothing. */
  broughtBack: number | null;
  /** Puts a value, or makes it of what stands by then: two changes may come before the page is drawn again. */
  set: (value: T | ((latest: T) => T)) => void;
  throwAway: () => void;
  /** What the server had when it was opened. */
  base: T;
  /** What stands after a look at what somebody else saved meanwhile, to be saved over their version. */
  settle: (value: T, version: number) => void;
  /** The server has `value` now, under a version. */
  saved: (value: T, version: number) => void;
}

/** Something typed that is saved by a button: kept in this browser from the first keystroke until the server has it. */
export function useKept<T extends object>(
  key: string,
  stored: { version: number; document: T },
): KeptState<T> {
  const [base, setBase] = useState(stored);
  const [value, setValue] = useState(stored.document);
  const [version, setVersion] = useState(stored.version);
  const [broughtBack, setBroughtBack] = useState<number | null>(null);
  const touched = useRef(false);
  const first = useRef(stored.document);
  const latest = useRef(stored.document);
  const put = useCallback((next: T) => {
    latest.current = next;
    setValue(next);
  }, []);
  useEffect(() => {
    let gone = false;
    void kept<T>(key).then((draft) => {
      const found = draft && completed(draft, first.current);
      if (gone || touched.current || found?.document == null || same(found.document, first.current)) return;
      put(found.document);
      setVersion(found.version);
      setBroughtBack(found.at);
    });
    return () => {
      gone = true;
    };
  }, [key, put]);
  const set = useCallback(
    (given: T | ((latest: T) => T)) => {
      touched.current = true;
      const next = typeof given === "function" ? given(latest.current) : given;
      put(next);
      void keep(key, { version, document: next, past: [], future: [], at: Date.now() });
    },
    [key, version, put],
  );
  const throwAway = () => {
    put(base.document);
    setVersion(base.version);
    setBroughtBack(null);
    void forget(key);
  };
  const saved = (document: T, now: number) => {
    setBase({ version: now, document });
    setVersion(now);
    setBroughtBack(null);
    // What was typed while it was on its way is still only here.
    if (same(latest.current, document)) void forget(key);
    else void keep(key, { version: now, document: latest.current, past: [], future: [], at: Date.now() });
  };
  const settle = (next: T, over: number) => {
    touched.current = true;
    setVersion(over);
    put(next);
    void keep(key, { version: over, document: next, past: [], future: [], at: Date.now() });
  };
  const changed = !same(value, base.document);
  return { value, version, changed, broughtBack, base: base.document, set, throwAway, settle, saved };
}
