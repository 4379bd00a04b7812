import fc from "fast-check";
import { describe, expect, it } from "vitest";

import { same } from "../../api/same";
import {
  draft,
  leftToSend,
  next,
  opened,
  sendable,
  stateOf,
  toSend,
  type Happening,
  type Saving,
} from "./saving";

interface Doc {
  title: string;
  litres: number;
  cars: { amps: number }[];
}
const FIRST: Doc = { title: "Estate", litres: 40, cars: [{ amps: 90 }] };
const start = () => opened({ version: 3, document: FIRST });
const after = (...events: Happening<Doc>[]) => events.reduce<Saving<Doc>>(next, start());
const edited = (change: Partial<Doc>): Happening<Doc> => ({
  what: "edited",
  present: { ...FIRST, ...change },
});
const sent = (saving: Saving<Doc>): Saving<Doc> => {
  const due = toSend(saving);
  return due ? next(saving, { what: "sent", document: due.document }) : saving;
};

const answered = ({ sent: document }: Saving<Doc>, version: number): Happening<Doc> => {
  if (document === null) throw new Error("nothing was sent");
  return { what: "answered", document, version };
};

describe("the saving of a document", () => {
  it("goes from clean over edited and saving to clean, each time over the version before", () => {
    const typed = after(edited({ title: "Van" }));
    expect([stateOf(start()), stateOf(typed), toSend(typed)?.version]).toEqual(["clean", "edited", 3]);
    const away = sent(typed);
    expect([stateOf(away), toSend(away)]).toEqual(["saving", null]);
    const more = next(next(away, edited({ title: "Vans" })), answered(away, 4));
    expect([stateOf(more), toSend(more)?.version, more.stored.document.title]).toEqual(["edited", 4, "Van"]);
    expect(stateOf(next(sent(more), answered(sent(more), 5)))).toBe("clean");
  });

  it("sends every other edit while one value is refused, and keeps that in the draft", () => {
    const wrong = sent(after(edited({ litres: -5 })));
    const told = next(wrong, { what: "not allowed", document: wrong.present, path: "litres", message: "no" });
    expect([stateOf(told), toSend(told), sendable(told)]).toEqual(["refused", null, FIRST]);
    const good = next(told, edited({ litres: -5, title: "Van" }));
    expect(toSend(good)?.document).toEqual({ ...FIRST, title: "Van" });
    expect(draft(good)?.document.litres).toBe(-5);
    const mended = next(good, edited({ litres: 45, title: "Van" }));
    expect([mended.refused, toSend(mended)?.document.litres]).toEqual([[], 45]);
  });

  it("waits with all of it where the refusal names no field, or one that nobody changed", () => {
    for (const path of ["", "title"]) {
      const wrong = sent(after(edited({ litres: -5 })));
      const told = next(wrong, { what: "not allowed", document: wrong.present, path, message: "no" });
      expect([toSend(told), stateOf(told)]).toEqual([null, "refused"]);
      expect(toSend(next(told, edited({ litres: 6 })))?.document.litres).toBe(6);
    }
  });

  it("asks again after 1, 2, 4 … 30 s where nobody answers, at once when the line is back, and never on a conflict", () => {
    let saving = after(edited({ title: "Van" }));
    const waits = Array.from({ length: 7 }, () => {
      saving = next(sent(saving), { what: "no answer" });
      return (toSend(saving)?.afterMs ?? 0) / 1000;
    });
    expect(waits).toEqual([1, 2, 4, 8, 16, 30, 30]);
    expect([stateOf(saving), toSend(next(saving, { what: "line is back" }))?.afterMs]).toEqual([
      "offline",
      1000,
    ]);
    const theirs = { version: 9, document: { ...FIRST, title: "Theirs" } };
    const conflict = next(sent(saving), { what: "saved elsewhere", theirs });
    expect([stateOf(conflict), toSend(conflict), draft(conflict)?.version]).toEqual(["conflict", null, 3]);
    const settled = next(conflict, { what: "settled", present: { ...theirs.document, litres: 7 } });
    expect(toSend(settled)).toMatchObject({ version: 9, document: { title: "Theirs", litres: 7 } });
  });

  it("knows its own save whose answer was lost", () => {
    const lost = next(sent(after(edited({ title: "Van" }))), { what: "no answer" });
    const again = next(sent(lost), {
      what: "saved elsewhere",
      theirs: { version: 4, document: { cars: [{ amps: 90 }], litres: 40, title: "Van" } },
    });
    expect([stateOf(again), again.stored.version]).toEqual(["clean", 4]);
    expect([same([1, { a: 2 }], [1, { a: 2 }]), same({ a: 1 }, { a: 1, b: 2 }), same([], {})]).toEqual([
      true,
      false,
      false,
    ]);
  });

  it("knows it also where more was typed before the line came back, and saves that over it", () => {
    const lost = next(sent(after(edited({ title: "Van" }))), { what: "no answer" });
    const typed = next(lost, edited({ title: "Van, second thought" }));
    const theirs = { version: 4, document: { ...FIRST, title: "Van" } };
    const known = next(sent(typed), { what: "saved elsewhere", theirs });
    expect([stateOf(known), known.theirs, known.lost]).toEqual(["edited", null, []]);
    expect(toSend(known)).toMatchObject({ version: 4, document: { title: "Van, second thought" } });
  });

  it("hands over on leaving what was typed after the save that is on its way, and nothing twice", () => {
    const away = sent(after(edited({ title: "Van" })));
    expect([leftToSend(away), leftToSend(start())]).toEqual([null, null]);
    const more = next(away, edited({ title: "Vans" }));
    expect([toSend(more), leftToSend(more)?.document.title]).toEqual([null, "Vans"]);
    const both = next(more, { what: "sent", document: more.present });
    const first = next(both, { what: "answered", document: away.present, version: 4 });
    expect([first.stored.document.title, stateOf(first)]).toEqual(["Van", "saving"]);
  });

  it("sends nothing while logged out, and goes on after", () => {
    const out = next(sent(after(edited({ title: "Van" }))), { what: "signed out" });
    expect([stateOf(out), toSend(out)]).toEqual(["signed out", null]);
    expect(toSend(next(out, { what: "signed in" }))?.document.title).toBe("Van");
  });

  /** A server that refuses litres below nothing, a line that fails as it likes, and one more who saves. */
  it("ends with every accepted edit stored or in the draft, whatever happens in whatever order", () => {
    const step = fc.oneof(
      fc.record({
        do: fc.constant("type" as const),
        litres: fc.integer({ min: -3, max: 3 }),
        title: fc.string(),
      }),
      fc.record({
        do: fc.constantFrom(
          "send",
          "send and lose the answer",
          "lose",
          "log out",
          "log in",
          "line",
          "theirs",
        ),
      }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        let saving = start();
        const server = { version: 3, document: FIRST };
        const put = (lost: boolean) => {
          const due = toSend(saving);
          if (!due) return;
          saving = next(saving, { what: "sent", document: due.document });
          if (due.version !== server.version)
            saving = next(saving, { what: "saved elsewhere", theirs: { ...server } });
          else if (due.document.litres < 0)
            saving = next(saving, {
              what: "not allowed",
              document: due.document,
              path: "litres",
              message: "",
            });
          else {
            Object.assign(server, { version: server.version + 1, document: due.document });
            saving = next(
              saving,
              lost
                ? { what: "no answer" }
                : { what: "answered", document: due.document, version: server.version },
            );
          }
        };
        let typed = FIRST;
        for (const each of steps) {
          if (each.do === "type") {
            typed = { ...typed, litres: each.litres, title: each.title };
            saving = next(saving, { what: "edited", present: typed });
          } else if (each.do === "send") put(false);
          else if (each.do === "send and lose the answer") put(true);
          else if (each.do === "log out") saving = next(saving, { what: "signed out" });
          else if (each.do === "log in") saving = next(saving, { what: "signed in" });
          else if (each.do === "line") saving = next(saving, { what: "line is back" });
          else if (each.do === "theirs")
            Object.assign(server, {
              version: server.version + 1,
              document: { ...server.document, cars: [{ amps: server.version }] },
            });
          else {
            const due = toSend(saving);
            if (due)
              saving = next(next(saving, { what: "sent", document: due.document }), { what: "no answer" });
          }
          expect(saving.present).toBe(typed);
          if (!steps.some(({ do: what }) => what === "theirs")) expect(saving.theirs).toBeNull();
          expect(same(draft(saving)?.document ?? saving.stored.document, typed)).toBe(true);
        }
        saving = next(saving, { what: "signed in" });
        for (let k = 0; k < 4; k++) {
          if (saving.theirs) {
            typed = { ...typed, cars: saving.theirs.document.cars };
            saving = next(saving, { what: "settled", present: typed });
          }
          put(false);
        }
        expect(toSend(saving)).toBeNull();
        expect(server.document.title).toBe(typed.title);
        if (typed.litres >= 0) expect(server.document.litres).toBe(typed.litres);
        else expect(draft(saving)?.document.litres ?? server.document.litres).toBe(typed.litres);
      }),
      { numRuns: 500 },
    );
  });
});
