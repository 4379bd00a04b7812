import type { BankAtWork } from "../../api/client";

/** A resistor drawn lying along the current, and a wire as a line through points. */
export interface Piece {
  x: number;
  y: number;
  width: number;
  label: string;
}
export interface BankDrawing {
  width: number;
  height: number;
  pieces: Piece[];
  wires: [number, number][][];
  /** Where wires meet. */
  joints: [number, number][];
}

export const PIECE = { width: 58, height: 18 };
const STEP = PIECE.width + 18;
const ROW = 34;
const RAIL = 22;
const MARGIN = 34;

interface Block {
  width: number;
  height: number;
}

/** Coordinates of a bank's wiring diagram, left terminal to right terminal; text is left to whoever draws it. */
export function drawBank(bank: Pick<BankAtWork, "groups" | "joined">): BankDrawing {
  const blocks = bank.groups.map((group): Block => ({
    width: group.in_series * STEP + 2 * RAIL,
    height: group.strings * ROW,
  }));
  const series = bank.joined === "series";
  const inner = series ? sum(blocks.map((b) => b.width)) : Math.max(...blocks.map((b) => b.width)) + 2 * RAIL;
  const height = series ? Math.max(...blocks.map((b) => b.height)) : sum(blocks.map((b) => b.height));
  const out: BankDrawing = {
    width: inner + 2 * MARGIN,
    height: height + 2 * MARGIN,
    pieces: [],
    wires: [],
    joints: [],
  };
  const middle = MARGIN + height / 2;
  const [left, right] = [MARGIN, MARGIN + inner];
  out.wires.push(
    [
      [0, middle],
      [left, middle],
    ],
    [
      [right, middle],
      [out.width, middle],
    ],
  );
  let along = left;
  let down = MARGIN;
  const ends: number[] = [];
  bank.groups.forEach((group, i) => {
    const block = blocks[i] as Block;
    const x0 = series ? along : left + RAIL;
    const x1 = series ? along + block.width : right - RAIL;
    const y0 = series ? middle - block.height / 2 : down;
    drawGroup(out, group, { x0, x1, y0 });
    if (!series) ends.push(y0 + block.height / 2);
    along += block.width;
    down += block.height;
  });
  if (!series) joinSides(out, ends, middle, { left, right });
  return out;
}

/** Strings of a group between its own two rails, each centred on its row. */
function drawGroup(
  out: BankDrawing,
  group: BankAtWork["groups"][number],
  { x0, x1, y0 }: { x0: number; x1: number; y0: number },
) {
  const rows = Array.from({ length: group.strings }, (_, i) => y0 + (i + 0.5) * ROW);
  const middle = y0 + (group.strings * ROW) / 2;
  const [from, to] = [x0 + RAIL / 2, x1 - RAIL / 2];
  out.wires.push(
    [
      [x0, middle],
      [from, middle],
    ],
    [
      [to, middle],
      [x1, middle],
    ],
  );
  if (rows.length > 1) {
    for (const x of [from, to]) {
      out.wires.push([
        [x, rows[0] ?? middle],
        [x, rows.at(-1) ?? middle],
      ]);
      out.joints.push([x, middle]);
    }
  }
  const gap = (to - from - group.in_series * PIECE.width) / (group.in_series + 1);
  for (const y of rows) {
    let x = from;
    for (let n = 0; n < group.in_series; n += 1) {
      out.wires.push([
        [x, y],
        [x + gap, y],
      ]);
      out.pieces.push({ x: x + gap, y, width: PIECE.width, label: `${group.ohm_each} Ω` });
      x += gap + PIECE.width;
    }
    out.wires.push([
      [x, y],
      [to, y],
    ]);
  }
}

function joinSides(
  out: BankDrawing,
  ends: number[],
  middle: number,
  { left, right }: { left: number; right: number },
) {
  for (const [x, towards] of [
    [left, RAIL],
    [right, -RAIL],
  ] as const) {
    for (const y of ends)
      out.wires.push([
        [x, y],
        [x + towards, y],
      ]);
    if (ends.length > 1) {
      out.wires.push([
        [x, Math.min(...ends)],
        [x, Math.max(...ends)],
      ]);
      out.joints.push([x, middle]);
    }
  }
}

function sum(values: number[]): number {
  return values.reduce((total, value) => total + value, 0);
}
