import { describe, expect, it } from "vitest";

import type { PartOut } from "../api/client";
import { KINDS, partWords } from "./partWords";

const part = (of: Partial<PartOut["part"]>) => ({ kind: "bank", name: "A", ...of }) as PartOut["part"];

describe("a part in words", () => {
  it("says what matters of its kind, in its unit", () => {
    expect(partWords(part({ capacity_ah: 80, chemistry: "agm", resistance_ohm: 0.0039 }))).toBe(
      "80 Ah, agm, 3.9 mΩ",
    );
    expect(partWords(part({ size: "1/0 AWG", conductor: "cca15" }))).toBe("1/0 AWG, not pure copper");
    expect(partWords(part({ kind: "charger", rated_a: 180, idle_a: 95 }))).toBe("180 A rated, 95 A at idle");
    expect(partWords(part({ kind: "labour" }))).toBe("");
    expect(partWords(part({ capacity_ah: 80, system_v: 24 }))).toBe("80 Ah, 24 V system");
  });

  it("has a word for every kind", () => {
    expect(new Set(KINDS.map(([, words]) => words)).size).toBe(12);
  });
});
