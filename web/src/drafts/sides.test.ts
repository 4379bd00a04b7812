import { describe, expect, it } from "vitest";

import { changedBy, merged } from "./sides";

const BASE = { title: "Car", banks: [{ name: "Front", charge: 1 }], notes: "" };
const MINE = { ...BASE, title: "My car", banks: [{ name: "Front", charge: 0.8 }] };
const THEIRS = { ...BASE, title: "Their car", notes: "left side" };

describe("two people's changes of one document", () => {
  it("are told apart by what both began from", () => {
    const by = (path: string) => changedBy(path, BASE, MINE, THEIRS);
    expect([by("title"), by("banks.0.charge"), by("notes")]).toEqual([null, "mine", "theirs"]);
    expect(changedBy("notes", null, MINE, THEIRS)).toBeNull();
  });

  it("are put together field by field as chosen", () => {
    const chosen = { title: "theirs", "banks.0.charge": "mine", notes: "theirs" } as const;
    expect(merged(MINE, THEIRS, chosen)).toEqual({ ...THEIRS, banks: MINE.banks });
    expect(merged(MINE, THEIRS, { title: "mine" }).title).toBe("My car");
    expect(THEIRS.banks[0]?.charge).toBe(1);
  });
});
