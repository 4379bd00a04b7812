import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";

import { isRefusal, Problem, SIGNED_IN } from "../../api/client";
import { arrived, keep } from "../../drafts/drafts";
import { leftToSend, toSend, type Happening, type Stored } from "./saving";
import { toKeep, type Working } from "./working";

/** How a document is read and written, also from a page that is being left. */
export interface Keeper<T> {
  key: string;
  read: () => Promise<Stored<T>>;
  write: (stored: Stored<T>) => Promise<Stored<T>>;
}

/** Whether the server itself says why it cannot save just now: its storage is busy, cannot be written, or is full. */
function saysWhy(error: unknown): error is Problem {
  return error instanceof Problem && (error.status === 503 || error.status === 507);
}

/** Sends what is to be sent, tells what happened, and keeps a draft meanwhile; on leaving the rest is sent at once. */
export function useSaving<T>(
  keeper: Keeper<T>,
  working: Working<T> | null,
  tell: (event: Happening<T>) => void,
) {
  const client = useQueryClient();
  const version = useRef(0);
  const { mutate } = useMutation({
    mutationKey: ["save", keeper.key],
    scope: { id: keeper.key }, // one after the other, each over the version before it
    networkMode: "always",
    mutationFn: async (due: Stored<T>) => {
      const over = Math.max(due.version, version.current);
      const answer = await keeper.write({ version: over, document: due.document });
      version.current = answer.version;
      await arrived(keeper.key, { version: answer.version, document: due.document });
      return answer.version;
    },
    onSuccess: (now, due) => {
      tell({ what: "answered", document: due.document, version: now });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: async (error, due) => {
      if (error instanceof Problem && error.status === 401) tell({ what: "signed out" });
      else if (!isRefusal(error)) tell({ what: "no answer", why: saysWhy(error) ? error.message : "" });
      else if (error.status === 409) {
        try {
          const theirs = await keeper.read();
          tell({ what: "saved elsewhere", theirs });
        } catch {
          tell({ what: "no answer" });
        }
      } else {
        const { field: path, message, reason } = error;
        tell({ what: "not allowed", document: due.document, path, message, reason });
      }
    },
  });

  const saving = working?.saving ?? null;
  const due = useMemo(() => (saving ? toSend(saving) : null), [saving]);
  useEffect(() => {
    if (due === null) return;
    const timer = setTimeout(() => {
      tell({ what: "sent", document: due.document });
      mutate({ version: due.version, document: due.document });
    }, due.afterMs);
    return () => clearTimeout(timer);
  }, [due, tell, mutate]);

  const kept = useRef(true);
  const opened = useRef<Working<T> | null>(null);
  useEffect(() => {
    opened.current ??= working;
    // A page that was only opened has nothing to keep, and another one may be keeping its own.
    if (working && working !== opened.current)
      void keep(keeper.key, toKeep(working)).then((does) => (kept.current = does));
  }, [keeper.key, working]);

  const latest = useRef(working);
  useEffect(() => {
    latest.current = working;
  });
  useEffect(() => {
    const send = () => {
      const left = latest.current ? leftToSend(latest.current.saving) : null;
      if (left === null) return;
      latest.current = null; // "beforeunload" and "pagehide" both come: it is sent once
      tell({ what: "sent", document: left.document });
      mutate({ version: left.version, document: left.document });
    };
    const leave = (event: BeforeUnloadEvent) => {
      const unsaved = latest.current !== null && toKeep(latest.current).document !== null;
      send();
      if (unsaved && !kept.current) event.preventDefault();
    };
    const back = () => tell({ what: "line is back" });
    const signedIn = () => tell({ what: "signed in" });
    window.addEventListener("beforeunload", leave);
    window.addEventListener("pagehide", send);
    window.addEventListener("online", back);
    window.addEventListener(SIGNED_IN, signedIn);
    return () => {
      window.removeEventListener("beforeunload", leave);
      window.removeEventListener("pagehide", send);
      window.removeEventListener("online", back);
      window.removeEventListener(SIGNED_IN, signedIn);
      send();
    };
  }, [tell, mutate]);
}
