// @vitest-environment jsdom
import { describe, expect, it } from "vitest";

import { STEPS_KEPT } from "../../drafts/drafts";
import { resumed, step, toKeep } from "./working";

interface Doc {
  title: string;
}
const FIRST = { version: 3, document: { title: "Estate" } };
const begin = () => resumed<Doc>(FIRST, null, null);
const typed = (working: ReturnType<typeof begin>, title: string, at: number) => {
  const after = step(working, { do: "change", path: "title", value: title, at });
  if (!after) throw new Error("nothing is open");
  return after;
};

describe("a document that is left and opened again", () => {
  it("can still be undone, and only over the version that it was left at", () => {
    const left = typed(begin(), "Van", 0);
    const sent = step(left, { do: "happened", event: { what: "sent", document: left.history.present } });
    const saved = step(sent, {
      do: "happened",
      event: { what: "answered", document: left.history.present, version: 4 },
    });
    const record = saved && toKeep(saved);
    expect(record).toMatchObject({ version: 4, document: null, past: [{ title: "Estate" }] });
    const again = resumed<Doc>({ version: 4, document: { title: "Van" } }, record, null);
    expect([again.broughtBack, again.history.past]).toEqual([null, [{ title: "Estate" }]]);
    expect(step(again, { do: "undo" })?.saving.present).toEqual({ title: "Estate" });
    const theirs = resumed<Doc>({ version: 9, document: { title: "Theirs" } }, record, null);
    expect([theirs.history.past, theirs.saving.theirs]).toEqual([[], null]);
  });

  it("has what an older program did not know as the server has it, in the draft and in every step", () => {
    const stored = { version: 3, document: { title: "Estate", tags: ["loud"] } };
    const older = { title: "Typed before" } as typeof stored.document;
    const record = { version: 3, document: older, past: [{ ...older, title: "Es" }], future: [], at: 1 };
    const again = resumed(stored, record, null);
    expect(again.history.present).toEqual({ title: "Typed before", tags: ["loud"] });
    expect(step(again, { do: "undo" })?.history.present).toEqual({ title: "Es", tags: ["loud"] });
    const same = resumed(stored, { ...record, document: { title: "Estate" } as typeof older }, null);
    expect(same.broughtBack).toBeNull();
  });

  it("keeps no more steps than a keystroke can write", () => {
    const many = Array.from({ length: 50 }, (_, k) => k).reduce(
      (working, k) => typed(working, `title ${k}`, 5000 * k),
      begin(),
    );
    expect([many.history.past.length, toKeep(many).past.length]).toEqual([50, STEPS_KEPT]);
    expect(toKeep(many).past.at(-1)).toEqual({ title: "title 48" });
  });

  it("thrown away, is the server's: also where somebody else saved it meanwhile", () => {
    const record = { version: 3, document: { title: "Mine" }, past: [], future: [], at: 1 };
    const theirs = { version: 9, document: { title: "Theirs" } };
    for (const stored of [FIRST, theirs]) {
      const again = resumed<Doc>(stored, record, FIRST.document);
      expect(again.saving.theirs).toBe(stored === theirs ? theirs : null);
      const thrown = step(again, { do: "throw away" });
      expect([thrown?.saving.present, thrown?.saving.theirs, thrown?.history.present]).toEqual([
        stored.document,
        null,
        stored.document,
      ]);
    }
  });
});
