import { useState } from "react";

import { SIGNED_OUT } from "../api/client";
import { JobConflict } from "./JobConflict";
import type { Work } from "./useJob";
import { clock } from "../ui/moments";

const LINK = "text-teal min-h-11 px-1 underline underline-offset-4";

/** How saving stands, in one sentence, with what to do about it. */
export function SaveNote({ work }: { work: Work }) {
  const [looking, setLooking] = useState(false);
  const { save, version, saving, broughtBack, act } = work;
  const words = {
    clean: `revision ${version} · saved`,
    edited: "not saved yet",
    saving: "saving …",
    refused: saving?.refused.some((each) => each.whole)
      ? "not saved: see what is refused below"
      : "all saved but the value that is refused below",
    conflict: "not saved: this job was saved elsewhere meanwhile",
    offline: saving?.why
      ? `${saving.why} Kept in this browser, and sent again.`
      : "no answer from the server: kept in this browser, sent when it is back",
    "signed out": "logged out: kept in this browser, sent when you log in",
  }[save];
  const trouble = save === "conflict" || save === "offline" || save === "signed out";
  return (
    <>
      <span className={`text-sm ${trouble ? "text-vermilion" : "text-soft"}`} role="status">
        {words}
      </span>
      {save === "conflict" && (
        <button className={LINK} onClick={() => setLooking(true)}>
          See both
        </button>
      )}
      {save === "signed out" && (
        <button className={LINK} onClick={() => window.dispatchEvent(new Event(SIGNED_OUT))}>
          Log in
        </button>
      )}
      {broughtBack !== null && (
        <span className="text-sm" role="status">
          What you typed at {clock(broughtBack)} is back.
          <button className={LINK} onClick={() => act({ do: "keep" })}>
            Good
          </button>
          <button className={LINK} onClick={() => act({ do: "throw away" })}>
            Throw it away
          </button>
        </span>
      )}
      {looking && saving?.theirs && (
        <JobConflict
          onClose={() => setLooking(false)}
          saving={saving}
          theirs={saving.theirs.document}
          act={act}
        />
      )}
    </>
  );
}
