import { describe, expect, it } from "vitest";

import type { ScheduleRow } from "../../api/client";
import { BOX, drawCables, type Box } from "./cableGeometry";

function row(
  part: ScheduleRow["part"],
  tag: string,
  cable: string,
  start: string,
  end: string,
  more = {},
): ScheduleRow {
  return { part, tag, cable, start, end, fuse_start: null, fuse_end: null, ...more } as ScheduleRow;
}
const fuse = (rating_a: number | null) => ({
  rating_a,
  kind: "bolt-in",
  fitted: true,
  at_battery: true,
  why: "",
});

/** A van: charger, front battery, a long run to the rear, two amplifiers there, the second through the body. */
const VAN = [
  row("positive", "P1", "Charging", "charger", "front battery", { fuse_end: fuse(150) }),
  row("strap", "E1", "Battery strap", "front battery", "body"),
  row("positive", "P2", "Main run", "front battery", "rear", { fuse_start: fuse(250), fuse_end: fuse(250) }),
  row("return", "N1", "Main run", "rear", "front battery"),
  row("positive", "P3", "Lead to One", "rear", "One", { fuse_start: fuse(null) }),
  row("positive", "P4", "Lead to Two", "rear", "Two"),
  row("body", "N2", "Lead to Two", "Two", "body"),
  row("speaker", "S1", "Speaker lead of One", "One", "drivers"),
  row("speaker", "S2", "Speaker lead of Two", "Two", "drivers"),
];
const drawn = drawCables(VAN, (each) => [each.tag, each.cable]);
const box = (name: string) => drawn.boxes.find((each) => each.name === name) as Box;
const wire = (tag: string) => drawn.wires.find((each) => each.tag === tag);

describe("the drawing of the whole path", () => {
  it("has a box for each place and drivers for each speaker lead", () => {
    expect(drawn.boxes.map((each) => each.name).sort()).toEqual(
      ["charger", "front battery", "rear", "One", "Two", "drivers", "drivers"].sort(),
    );
  });

  it("runs from left to right with the current", () => {
    const columns = ["charger", "front battery", "rear", "One"].map((name) => box(name).x);
    expect([...columns].sort((a, b) => a - b)).toEqual(columns);
    expect(box("One").x).toBe(box("Two").x);
  });

  it("lets no two boxes overlap and keeps all of them in the picture", () => {
    for (const [i, a] of drawn.boxes.entries())
      for (const b of drawn.boxes.slice(i + 1))
        expect(Math.abs(a.x - b.x) >= BOX.width || Math.abs(a.y - b.y) >= BOX.height).toBe(true);
    for (const each of drawn.boxes) {
      expect(each.x + BOX.width).toBeLessThanOrEqual(drawn.width);
      expect(each.y + BOX.height).toBeLessThanOrEqual(drawn.height);
    }
  });

  it("joins the boxes that a cable joins, edge to edge", () => {
    const points = wire("P4")?.points ?? [];
    expect(points[0]?.[0]).toBe(box("rear").x + BOX.width);
    expect(points.at(-1)?.[0]).toBe(box("Two").x);
    for (const [i, [x, y]] of points.slice(1).entries()) {
      const before = points[i] ?? [NaN, NaN];
      expect(before[0] === x || before[1] === y).toBe(true);
    }
  });

  it("dashes returns and gives every other cable one line", () => {
    expect(drawn.wires.filter((each) => each.dashed).map((each) => each.tag)).toEqual(["N1"]);
    expect(drawn.wires.length).toBe(7);
  });

  it("sets each fuse at its own end, and says where none fits", () => {
    const run = wire("P2")?.fuses ?? [];
    expect(run.map((each) => each.label)).toEqual(["250 A", "250 A"]);
    expect(run[0]?.x).toBeLessThan(run[1]?.x ?? 0);
    expect(wire("P1")?.fuses[0]?.x).toBeGreaterThan((box("charger").x + box("front battery").x) / 2);
    expect(wire("P3")?.fuses[0]?.label).toBe("none fits");
  });

  it("hangs straps and body leads below the box they start from", () => {
    expect(drawn.grounds.map((each) => each.tag)).toEqual(["E1", "N2"]);
    expect(drawn.grounds[1]?.at[1]).toBe(box("Two").y + BOX.height);
  });

  it("turns a cable that was drawn against the current, its fuses with it", () => {
    const turned = drawCables(
      [
        row("positive", "P1", "A", "front battery", "rear"),
        row("positive", "P2", "B", "block", "rear", { fuse_end: fuse(80) }),
      ],
      (each) => [each.tag, ""],
    );
    const b = turned.wires.find((each) => each.tag === "P2");
    const rear = turned.boxes.find((each) => each.name === "rear");
    expect(b?.points[0]?.[0]).toBe((rear?.x ?? 0) + BOX.width);
    expect(b?.fuses[0]?.x).toBeLessThan((rear?.x ?? 0) + BOX.width + 100);
  });

  it("goes straight where both boxes stand in one row, and square where they do not", () => {
    expect(wire("P2")?.points).toHaveLength(2);
    expect(wire("P4")?.points).toHaveLength(4);
    expect(wire("P2")?.at[1]).toBeLessThan(wire("N1")?.at[1] ?? 0);
    expect(wire("P2")?.words).toEqual(["P2", "Main run"]);
    expect(wire("P2")?.points[0]?.[1]).toBe(box("front battery").y + BOX.height / 2 - 14);
    expect(wire("N1")?.points[0]?.[1]).toBe(box("front battery").y + BOX.height / 2 + 18);
  });

  it("hangs a strap whose start has no box below its end, and a second one beside the first", () => {
    const straps = drawCables(
      [
        row("positive", "P1", "Run", "front battery", "rear"),
        row("strap", "E1", "Engine strap", "engine", "front battery"),
        row("strap", "E2", "Body strap", "front battery", "body"),
        row("strap", "E3", "Lost", "roof", "bonnet"),
      ],
      (each) => [each.tag, ""],
    );
    expect(straps.grounds.map((each) => each.words)).toEqual(["E1", "E2"]);
    const [first, second] = straps.grounds.map((each) => each.at);
    expect([first?.[1], (second?.[0] ?? 0) - (first?.[0] ?? 0)]).toEqual([
      (straps.boxes[0]?.y ?? NaN) + BOX.height,
      70,
    ]);
  });

  it("is empty without cables", () => {
    expect(drawCables([], () => ["", ""]).boxes).toEqual([]);
  });
});
