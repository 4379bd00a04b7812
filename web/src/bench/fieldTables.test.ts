import { describe, expect, it } from "vitest";

import { DRIVER_FIELDS } from "../parts/driverFields";
import { publishedUnits } from "../test/published";
import { columnsOf, OUTPUTS, wayOf, type OutputWay } from "./grid/columns";
import { GROUPS } from "./record/fields";

interface Entry {
  key: string;
  words: string;
  unit?: string;
  choices?: readonly (readonly [string, string])[];
}
const COLUMNS = (Object.keys(OUTPUTS) as OutputWay[]).flatMap((way) => columnsOf(way, true));
const TABLES: [string, string, readonly Entry[]][] = [
  ["a driver", "Driver", DRIVER_FIELDS],
  ["the record of an amplifier", "AmplifierRecord", GROUPS.flatMap(([, fields]) => fields)],
  ["a bench sheet", "Measurement", COLUMNS],
];

describe.each(TABLES)("every field of %s that is shown", (_, shape, fields) => {
  const units = publishedUnits(shape);

  it("is one of the published shape, in its unit, with words of its own", () => {
    for (const { key, words, unit = "" } of fields) {
      expect(units.has(key), key).toBe(true);
      expect([key, unit]).toEqual([key, units.get(key)]);
      expect(words.trim().length, key).toBeGreaterThan(1);
    }
  });

  it("names each of its choices", () => {
    for (const { key, choices } of fields)
      for (const [value, words] of choices ?? []) {
        expect(words, key).not.toBe("");
        expect(value === "" ? words : value, key).toMatch(/^[\w]+$/);
      }
  });
});

describe("the columns of a sheet", () => {
  it("are those of the way in which its rows give their output", () => {
    expect(wayOf([])).toBe("watts");
    expect(wayOf([{ output_v: "20" }, { power_w: "4" }])).toBe("watts");
    expect(wayOf([{ output_v: "20" }, { output_v: "20", output_a: "5" }])).toBe("parts");
    expect(wayOf([{ output_v: "20" }])).toBe("volts");
    const keys = (way: OutputWay) => columnsOf(way, false).map(({ key }) => key);
    expect(keys("volts").filter((key) => key.startsWith("output"))).toEqual(["output_v"]);
    expect(keys("parts").slice(-3)).toEqual(["output_v", "output_a", "power_factor"]);
    expect(keys("watts")).toContain("power_w");
    expect(columnsOf("watts", true).length).toBeGreaterThan(columnsOf("watts", false).length);
  });
});
