import { describe, expect, it } from "vitest";

import type { AmplifierRecord } from "../../api/client";
import { draftOf, GROUPS, recordOf } from "./fields";

const record = {
  name: "Marram",
  class: "D",
  minimum_load_ohm: 1,
  dropout_v: { value: 11, origin: "assumed" },
  idle_a: { value: 1.4, origin: "measured" },
  fuses_a: [40, 40],
  size_mm: [298, 192, 58],
  remote_level: false,
  lights: ["clip"],
  channels: { value: 2, origin: "typed" },
  pass_band_hz: [20, 250],
  bridgeable: true,
  likes: "quiet",
} as unknown as AmplifierRecord;

describe("the record of an amplifier as text", () => {
  it("comes back unchanged, origins and assumptions too, when nothing was typed", () => {
    expect(recordOf(draftOf(record), record)).toEqual(record);
    expect(draftOf(record).dropout_v).toBe("");
  });

  it("takes numbers with a comma, lists, yes and no, and empties", () => {
    const typed = {
      ...draftOf(record),
      minimum_load_ohm: "1,33",
      fuses_a: "30 30",
      remote_level: "yes",
      size_mm: "300 × 200 × 60",
      lights: "",
    };
    expect(recordOf(typed, record)).toMatchObject({
      minimum_load_ohm: 1.33,
      fuses_a: [30, 30],
      remote_level: true,
      size_mm: [300, 200, 60],
      lights: [],
    });
  });

  it("sends what is no number as it was typed, for the server to name", () => {
    expect(recordOf({ ...draftOf(record), mass_kg: "heavy" }, record).mass_kg).toBe("heavy");
  });

  it("takes back what is emptied: the usual value, nothing, or an empty text", () => {
    const emptied = { ...draftOf(record), channels: "", pass_band_hz: "", likes: " ", bridgeable: "" };
    const { channels, pass_band_hz, likes, bridgeable } = recordOf(emptied, record);
    expect([channels, pass_band_hz, likes, bridgeable]).toEqual([undefined, null, "", null]);
  });

  it("stands under headings of its own", () => {
    const headings = GROUPS.map(([heading]) => heading);
    expect(new Set(headings).size).toBe(headings.length);
    expect(headings.every((each) => each.length > 3)).toBe(true);
  });
});
