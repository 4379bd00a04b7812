import { describe, expect, it } from "vitest";

import type { AmplifierRecord } from "../../api/client";
import { publishedChoices, publishedFields } from "../../test/published";
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

  it("asks for all of the published record, and offers all of its choices", () => {
    const asked = GROUPS.flatMap(([, fields]) => fields);
    const left = [...publishedFields("AmplifierRecord").keys()].filter(
      (key) => !asked.some((field) => field.key === key),
    );
    // Runs at several volts tell it; who knows it without them states it in a sheet.
    expect(left).toEqual(["supply_exponent"]);
    for (const { key, choices } of asked)
      expect(choices?.map(([value]) => value).sort() ?? [], key).toEqual(
        publishedChoices("AmplifierRecord", key).sort(),
      );
  });

  it("gives back the usual value, where the published record has one, when a field is emptied", () => {
    const all = GROUPS.flatMap(([, fields]) => fields).map(({ key }) => key);
    const full = Object.fromEntries(all.map((key) => [key, "7"])) as unknown as AmplifierRecord;
    const emptied = recordOf(Object.fromEntries(all.map((key) => [key, ""])), full);
    for (const key of all) {
      const usual = publishedFields("AmplifierRecord").get(key)?.default;
      const gives = emptied[key] === undefined ? usual : emptied[key];
      expect(gives ?? null, key).toEqual(usual ?? null);
    }
  });

  it("stands under headings of its own", () => {
    const headings = GROUPS.map(([heading]) => heading);
    expect(new Set(headings).size).toBe(headings.length);
    expect(headings.every((each) => each.length > 3)).toBe(true);
  });
});
