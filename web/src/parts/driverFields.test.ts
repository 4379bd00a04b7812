import { describe, expect, it } from "vitest";

import type { Driver } from "../api/client";
import { draftOf, driverOf } from "./driverFields";

const driver = {
  name: "Knot 10",
  re_ohm: 3.4,
  fs_hz: { value: 33, origin: "measured" },
  qms: 4.6,
  qes: 0.5,
  vas_l: 32,
  sd_cm2: 330,
  le_mh: { value: 0, origin: "assumed" },
  xmax_mm: null,
  semi_inductance: [0.02, 0.7],
} as unknown as Driver;

describe("a driver's data sheet as text", () => {
  it("shows what was stated and leaves out what is assumed", () => {
    const draft = draftOf(driver);
    expect([draft.fs_hz, draft.le_mh, draft.xmax_mm]).toEqual(["33", "", ""]);
  });

  it("reads numbers with a comma and keeps what the form does not show", () => {
    const again = driverOf({ ...draftOf(driver), vas_l: "32,5" }, driver);
    expect(again).toMatchObject({
      vas_l: 32.5,
      name: "Knot 10",
      xmax_mm: null,
      semi_inductance: [0.02, 0.7],
    });
    expect("le_mh" in again).toBe(false);
  });

  it("begins with one coil and nothing else", () => {
    expect(draftOf(undefined)).toEqual({ coils: "1" });
    expect(driverOf({ name: " Knot ", qms: " 4,5 ", price: "" })).toMatchObject({
      name: "Knot",
      qms: 4.5,
      price: null,
    });
    expect("semi_inductance" in driverOf({ name: "X" })).toBe(false);
  });

  it("sends what is no number as it was typed", () => {
    expect(driverOf({ name: "X", qms: "much" }).qms).toBe("much");
  });
});
