import { describe, expect, it } from "vitest";

import type { AmplifierRecord } from "../../api/client";
import { draftOf, GROUPS, recordOf } from "./fields";

const RECORD = {
  name: "An amplifier",
  class: "D",
  channels: { value: 2, origin: "typed" },
  dropout_v: { value: 11, origin: "assumed" },
  bridgeable: true,
  pass_band_hz: [20, 250],
  likes: "quiet",
} as unknown as AmplifierRecord;

function changed(part: Record<string, string>): Record<string, unknown> {
  const after = recordOf({ ...draftOf(RECORD), ...part }, RECORD) as unknown as Record<string, unknown>;
  return Object.fromEntries(Object.keys(part).map((key) => [key, after[key]]));
}

describe("the record of an amplifier", () => {
  it("is typed as text, with what is only assumed left empty", () => {
    const draft = draftOf(RECORD);
    expect([draft.name, draft.class, draft.channels, draft.dropout_v]).toEqual([
      "An amplifier",
      "D",
      "2",
      "",
    ]);
    expect([draft.bridgeable, draft.pass_band_hz, draft.likes, draft.price]).toEqual([
      "yes",
      "20 250",
      "quiet",
      "",
    ]);
  });

  it("stays as it was where nothing is changed", () => {
    expect(recordOf(draftOf(RECORD), RECORD)).toEqual(RECORD);
    expect(recordOf({}, { name: "" } as unknown as AmplifierRecord)).toEqual({ name: "" });
  });

  it("reads numbers, pairs, words and answers back, and leaves to the server what is no number", () => {
    expect(
      changed({ price: "129,50", channels: "4", pass_band_hz: "20 – 400", bridgeable: "no", name: " B " }),
    ).toEqual({ price: 129.5, channels: 4, pass_band_hz: [20, 400], bridgeable: false, name: "B" });
    expect(changed({ price: "cheap" })).toEqual({ price: "cheap" });
  });

  it("takes back what is emptied: the usual value, nothing, or an empty text", () => {
    expect(changed({ channels: "", pass_band_hz: "", likes: " ", bridgeable: "" })).toEqual({
      channels: undefined,
      pass_band_hz: null,
      likes: "",
      bridgeable: null,
    });
  });

  it("is grouped under headings of its own", () => {
    const words = GROUPS.map(([heading]) => heading);
    expect(new Set(words).size).toBe(words.length);
    expect(words.every((each) => each.length > 3)).toBe(true);
    const kinds = new Set(GROUPS.flatMap(([, fields]) => fields.map(({ kind }) => kind)));
    expect([...kinds].every((kind) => kind.length > 3)).toBe(true);
  });
});
