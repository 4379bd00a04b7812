import { describe, expect, it } from "vitest";

import { getAt, originOf, setAll, setAt, valueOf } from "./quantity";

describe("a quantity of the job file", () => {
  it("is typed when bare and says otherwise when not", () => {
    expect([valueOf(3), originOf(3)]).toEqual([3, "typed"]);
    expect([valueOf({ value: 4, origin: "measured" }), originOf({ value: 4, origin: "measured" })]).toEqual([
      4,
      "measured",
    ]);
    expect([valueOf(null), originOf(undefined)]).toEqual([null, "assumed"]);
  });

  it("is replaced at its path without touching its neighbours or the original", () => {
    const job = { banks: [{ charge: 1 }, { charge: 0.5 }], basis: { engine: "idle" } };
    const changed = setAt(job, "banks.1.charge", 0.8);
    expect(getAt(changed, "banks.1.charge")).toBe(0.8);
    expect(getAt(job, "banks.1.charge")).toBe(0.5);
    expect(changed.banks[0]).toBe(job.banks[0]);
    expect(changed.basis).toBe(job.basis);
  });

  it("changes with others at once, even where a part was missing before", () => {
    const cable = { size: "4 AWG", runs: 1, return: null };
    const changed = setAll(
      { cables: [cable] },
      { "cables.0.size": "2 AWG", "cables.0.return.kind": "cable" },
    );
    expect(changed).toEqual({ cables: [{ size: "2 AWG", runs: 1, return: { kind: "cable" } }] });
    expect(cable.size).toBe("4 AWG");
  });

  it("is the whole document at the empty path", () => {
    expect(setAt({ a: 1 }, "", { a: 2 })).toEqual({ a: 2 });
  });
});
