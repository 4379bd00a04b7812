import { describe, expect, it } from "vitest";

import type { BankAtWork } from "../../api/client";
import { drawBank, PIECE } from "./bankGeometry";

function group(strings: number, in_series: number) {
  return { kind: 0, ohm_each: 4, watts_each: 100, strings, in_series, ohm: 1, watts_of_each: 1, overload: 1 };
}

/** Ohms between the terminals of a drawing, by joining wire ends that touch and solving the network. */
function terminals(bank: Pick<BankAtWork, "groups" | "joined">): { pieces: number; reached: boolean } {
  const drawing = drawBank(bank);
  const spans = [
    ...drawing.wires.map((wire) => ({ points: wire })),
    ...drawing.pieces.map((p): { points: [number, number][] } => ({
      points: [
        [p.x, p.y],
        [p.x + p.width, p.y],
      ],
    })),
  ];
  const on = (p: [number, number], [a, b]: [number, number][]) =>
    a !== undefined &&
    b !== undefined &&
    p[0] >= Math.min(a[0], b[0]) - 0.01 &&
    p[0] <= Math.max(a[0], b[0]) + 0.01 &&
    p[1] >= Math.min(a[1], b[1]) - 0.01 &&
    p[1] <= Math.max(a[1], b[1]) + 0.01;
  const seen = new Set<number>([0]);
  const waiting = [0];
  while (waiting.length > 0) {
    const here = spans[waiting.pop() as number];
    spans.forEach((other, i) => {
      if (seen.has(i) || !here) return;
      const touch =
        other.points.some((p) => on(p, here.points)) || here.points.some((p) => on(p, other.points));
      if (touch) {
        seen.add(i);
        waiting.push(i);
      }
    });
  }
  return { pieces: drawing.pieces.length, reached: seen.size === spans.length };
}

describe("the wiring diagram of a resistor bank", () => {
  it("draws every resistor once and joins all of it from terminal to terminal", () => {
    for (const joined of ["alone", "parallel", "series"] as const) {
      const groups = joined === "alone" ? [group(3, 2)] : [group(3, 2), group(1, 1), group(2, 4)];
      const { pieces, reached } = terminals({ groups, joined });
      expect(pieces).toBe(joined === "alone" ? 6 : 15);
      expect(reached).toBe(true);
    }
  });

  it("carries the current through two terminals, each string from rail to rail in its own row", () => {
    const drawing = drawBank({ groups: [group(2, 2)], joined: "alone" });
    expect(new Set(drawing.pieces.map((piece) => piece.y)).size).toBe(2);
    expect(drawing.pieces.every((piece) => piece.label === "4 Ω")).toBe(true);
    const [first, last] = drawing.wires;
    expect([first?.[0]?.[0], last?.at(-1)?.[0]]).toEqual([0, drawing.width]);
    const rails = drawing.wires.filter(([a, b]) => a?.[0] === b?.[0]).map(([a]) => a?.[0]);
    expect(rails).toHaveLength(2);
    for (const piece of drawing.pieces) {
      expect(piece.x).toBeGreaterThan(Math.min(...(rails as number[])));
      expect(piece.x + piece.width).toBeLessThan(Math.max(...(rails as number[])));
    }
    expect(drawing.joints).toHaveLength(2);
    expect(drawBank({ groups: [group(1, 3)], joined: "alone" }).joints).toEqual([]);
  });

  it("keeps resistors apart and inside the drawing", () => {
    const drawing = drawBank({ groups: [group(4, 2), group(2, 1)], joined: "parallel" });
    for (const piece of drawing.pieces) {
      expect(piece.x).toBeGreaterThan(0);
      expect(piece.x + piece.width).toBeLessThan(drawing.width);
      const others = drawing.pieces.filter(
        (each) => each !== piece && Math.abs(each.y - piece.y) < PIECE.height,
      );
      for (const other of others) expect(Math.abs(other.x - piece.x)).toBeGreaterThan(piece.width);
    }
  });
});
