import { describe, expect, it } from "vitest";

import type { BenchReadout } from "../../api/client";
import { readyFor, recorded } from "./recorded";

const SHOWN: BenchReadout = {
  volts: 13.876,
  amps: 51.32,
  output_v: 34.5,
  output_a: 17.3,
  phase: 0.2,
  true_power: 596.04,
  distortion: 1.04,
  sink_temperature: 31.4,
  coil_ohm: 2.02,
  protect: false,
  problems: {},
};
const SET = { load_ohm: 2, tone_hz: 40, clamp_range_a: 100, before_v: 14.38 };

describe("what is recorded on the practice bench", () => {
  it("is a row of a bench sheet, with the volts before the load and the clamp's range", () => {
    expect(recorded(SHOWN, "thd1", SET)).toEqual({
      load_ohm: "2",
      load_kind: "resistive",
      criterion: "thd1",
      tone_hz: "40",
      supply_before_v: "14.38",
      supply_v: "13.88",
      supply_a: "51.3",
      power_w: "596.0",
      heatsink_c: "31",
      protect: "no",
      meter: "practice bench",
      meter_range: "100",
    });
  });

  it("leaves out what a meter did not show, and watts once the protection has tripped", () => {
    const row = recorded({ ...SHOWN, amps: null, protect: true }, "clip", { ...SET, before_v: null });
    expect(Object.keys(row)).not.toEqual(expect.arrayContaining(["supply_a"]));
    expect(row).not.toHaveProperty("power_w");
    expect(row).not.toHaveProperty("supply_before_v");
    expect(row.protect).toBe("yes");
  });

  it("waits for the distortion that the criterion asks for", () => {
    const at = (distortion: number) => ({ ...SHOWN, distortion });
    expect(readyFor("thd1", at(0.3))).toMatch("raise");
    expect(readyFor("thd1", at(1.1))).toBe("");
    expect(readyFor("thd1", at(4))).toMatch("lower");
    expect(readyFor("clip", at(1.1))).toMatch("raise");
    expect(readyFor("clip", at(6))).toBe("");
  });
});
