// @vitest-environment jsdom
import { describe, expect, it } from "vitest";

import type { Job } from "../../api/client";
import { publishedChoices } from "../../test/published";
import { KINDS, placesFor, UNITS } from "./kinds";
import { EMPTY_LOG } from "./log";
import { taken } from "./taken";

const job = {
  chargers: [{ name: "Alternator", at: "front" }],
  banks: [{ name: "Front battery" }, { name: "Rear battery", at: "rear" }],
  cables: [{ name: "Main run", from: "front", to: "rear" }],
  amplifiers: [{ id: "a1", name: "Marram", at: "rear" }],
} as Job;
const placed = (what: (typeof KINDS)[number][0]) => placesFor(what, job).map(([, words]) => words);

describe("what can be read", () => {
  it("is all that the server takes, each in words of its own and with its unit", () => {
    expect(KINDS.map(([what]) => what).sort()).toEqual(publishedChoices("Asked", "what").sort());
    expect(new Set(KINDS.map(([, words]) => words)).size).toBe(KINDS.length);
    expect(KINDS.map(([what]) => UNITS[what]).join(" ")).toBe("V V A V V A ° W Ω °C");
  });

  it("is read where there is such a place", () => {
    expect(placed("volts")).toEqual(["front battery", "rear", "Marram"]);
    expect(placed("resting_v")).toEqual(["Front battery", "Rear battery"]);
    expect(placed("output_v")).toEqual(["Marram"]);
    const clamped = ["Alternator", "Front battery", "Rear battery", "Main run", "Marram"];
    expect(placed("amps")).toEqual([...clamped, "the vehicle's own loads"]);
  });
});

describe("a reading as it is taken", () => {
  it("has the clamp's range where a clamp reads, else the voltmeter's usual one", () => {
    const log = { ...EMPTY_LOG, clamp: "Clamp 3", clampRange: "400", volts: "Meter 1" };
    const asked = (what: (typeof KINDS)[number][0]) =>
      ({
        what,
        from: "a1",
        to: "",
        amplifier: "",
        engine: "off",
        programme: "tone",
        load: "drivers",
      }) as const;
    const meter = (what: (typeof KINDS)[number][0], clampRange = "400") => {
      const { meter: name, meter_range } = taken(
        { ...log, clampRange },
        { ...asked(what), hold: "mean" },
        "1",
        20,
      );
      return [name, meter_range];
    };
    expect([meter("amps"), meter("output_a"), meter("volts"), meter("phase")]).toEqual([
      ["Clamp 3", 400],
      ["Clamp 3", 400],
      ["Meter 1", 20],
      ["", 20],
    ]);
    for (const none of ["", "0", "-400", "wide"]) expect(meter("amps", none)).toEqual(["Clamp 3", null]);
  });
});
