import { describe, expect, it } from "vitest";

import { columnsOf, wayOf } from "./columns";
import { asRead, duplicated, EMPTY_ROW, isBlank, nextLoad, pasted } from "./rows";

describe("the rows of a sheet being typed", () => {
  it("go on to the next lower load, keeping what stays and nothing that was read", () => {
    const row = {
      ...EMPTY_ROW,
      load_ohm: "4",
      criterion: "clip",
      supply_before_v: "14.5",
      supply_a: "33",
      power_w: "402",
    };
    const [, next] = duplicated([row], 0);
    expect(next).toEqual({
      load_ohm: "3",
      load_kind: "resistive",
      criterion: "clip",
      tone_hz: "40",
      supply_before_v: "14.5",
    });
    const [first, second, third] = duplicated([row, { ...row, load_ohm: "1" }], 0);
    expect([first, second, third].map((each) => each?.load_ohm)).toEqual(["4", "3", "1"]);
    expect(nextLoad("0,5")).toBe("0,5");
  });

  it("take a block of a spreadsheet from the cell in hand on, and make the rows they need", () => {
    const columns = columnsOf("watts", false);
    const rows = pasted(
      [EMPTY_ROW],
      columns,
      { row: 0, column: 0 },
      "4\tresistor\tClipping\t50\n2\tdriver\tburst\t40\r\n",
    );
    expect(rows).toHaveLength(2);
    expect(rows[0]).toMatchObject({
      load_ohm: "4",
      load_kind: "resistive",
      criterion: "clip",
      tone_hz: "50",
    });
    expect(rows[1]).toMatchObject({ load_ohm: "2", load_kind: "reactive", criterion: "burst" });
  });

  it("say what was first read when one is corrected, and know an untouched row", () => {
    expect(asRead({ ...EMPTY_ROW, load_ohm: "2", power_w: "716", supply_a: "63" })).toBe(
      "supply_a 63, power_w 716",
    );
    expect([isBlank(EMPTY_ROW), isBlank({ ...EMPTY_ROW, power_w: "5" })]).toEqual([true, false]);
  });

  it("open the grid the way their output was given", () => {
    expect([wayOf([{ output_v: "40" }]), wayOf([{ output_v: "40", output_a: "3" }]), wayOf([])]).toEqual([
      "volts",
      "parts",
      "watts",
    ]);
  });
});
