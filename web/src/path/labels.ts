import { middleAt, type Band, type Box, type Joint, type Layout } from "./layout";

/** Where every joint's words stand: on no band, no joint and no other words, and inside the strip. */

export interface Label extends Box {
  id: string;
  /** In one line, or the detail under the name. */
  lines: 1 | 2;
  /** The name, cut where the whole strip has no room for it. */
  name: string;
  /** A hairline from the joint to words that do not stand beside it. */
  leader: { x0: number; y0: number; x1: number; y1: number } | null;
}

/** How wide a text is. */
export type Measure = (text: string, bold: boolean) => number;

export const LINE = 17;
const [BESIDE, CLEAR, SPACE] = [6, 2, 4];
/** How far from its joint words are looked for room. */
const [STEP, FAR] = [12, 108];
const LEAVES = ["output", "vehicle", "charge", "heat"];
/** Whose words are placed first. */
const FIRST = ["output", "current", "vehicle", "charge", "heat"];

interface Sized {
  joint: Joint;
  name: string;
  /** The width in one line, and in two. */
  widths: [number, number];
}

/** The words of all joints in a strip; those that find no room near their joint stand in rows below `floor`. */
export function labels({ joints, bands }: Layout, strip: Box, floor: number, measure: Measure): Label[] {
  const order = [...joints].sort((a, b) => FIRST.indexOf(a.kind) - FIRST.indexOf(b.kind) || a.x - b.x);
  const placed: Label[] = [];
  const left: Sized[] = [];
  const room = { ...strip, height: floor - strip.y };
  const ways = bands.map(walked);
  const free = (box: Box) =>
    inside(box, room) &&
    !joints.some((joint) => meet(box, joint)) &&
    !placed.some((label) => meet(box, label)) &&
    !ways.some((way) => runsInto(way, box));
  for (const joint of order) {
    const sized = sizedOf(joint, strip.width, measure);
    const near = besides(sized).find(free) ?? first(around(sized), free);
    if (near) placed.push(near);
    else left.push(sized);
  }
  return [...placed, ...inRows(left, strip, floor)];
}

/** How many rows below the drawing the words of a placement need. */
export function rowsBelow(placed: Label[], floor: number): number {
  const lowest = Math.max(floor, ...placed.map(({ y, height }) => y + height));
  return Math.ceil((lowest - floor) / (LINE + CLEAR));
}

function sizedOf(joint: Joint, most: number, measure: Measure): Sized {
  const detail = measure(joint.detail, true);
  let name = joint.label;
  while (name.length > 2 && measure(name, true) + SPACE + detail > most)
    name = `${name.slice(0, -2).trimEnd()}…`;
  const first = measure(name, true);
  return { joint, name, widths: [first + SPACE + detail, Math.max(first, detail)] };
}

function label({ joint, name, widths }: Sized, lines: 1 | 2, x: number, y: number): Label {
  return {
    id: joint.id,
    name,
    lines,
    x,
    y,
    width: widths[lines - 1] ?? 0,
    height: lines * LINE,
    leader: null,
  };
}

/** The usual places, the best first: what leaves has its words beside it, what goes on above or below. */
function besides(sized: Sized): Label[] {
  const { joint, widths } = sized;
  const right = joint.x + joint.width + BESIDE;
  const middle = joint.y + joint.height / 2;
  const both = [1, 2] as const;
  const beside = both.map((lines) => label(sized, lines, right, middle - (lines * LINE) / 2));
  const above = both.flatMap((lines) => {
    const [at, end] = [joint.y - lines * LINE - CLEAR, joint.x + joint.width - (widths[lines - 1] ?? 0)];
    return [label(sized, lines, joint.x, at), label(sized, lines, end, at)];
  });
  const below = both.flatMap((lines) => {
    const [at, end] = [joint.y + joint.height + CLEAR, joint.x + joint.width - (widths[lines - 1] ?? 0)];
    return [label(sized, lines, joint.x, at), label(sized, lines, end, at)];
  });
  const before = both.map((lines) =>
    label(sized, lines, joint.x - BESIDE - (widths[lines - 1] ?? 0), middle - (lines * LINE) / 2),
  );
  return LEAVES.includes(joint.kind)
    ? [...beside.reverse(), ...below, ...above, ...before]
    : [...above, ...below, ...before, ...beside];
}

/** How far words may stand from their joint, the nearest first. */
const OFFSETS = offsets();

function offsets() {
  const found: { far: number; lines: 1 | 2; dx: number; dy: number }[] = [];
  for (const lines of [1, 2] as const)
    for (let dy = -FAR; dy <= FAR; dy += STEP)
      for (let dx = -FAR; dx <= FAR; dx += STEP) found.push({ far: Math.hypot(dx, dy), lines, dx, dy });
  return found.sort((a, b) => a.far - b.far);
}

/** Anywhere near, the nearest first, with a hairline to the joint. */
function* around(sized: Sized): Generator<Label> {
  const { joint } = sized;
  for (const { lines, dx, dy } of OFFSETS) {
    const top = joint.y + (joint.height - lines * LINE) / 2;
    yield led(label(sized, lines, joint.x + dx, top + dy), joint);
  }
}

function led(placed: Label, joint: Joint): Label {
  const x1 = clamped(joint.x + joint.width / 2, placed.x, placed.x + placed.width);
  const above = placed.y + placed.height <= joint.y;
  const y0 = clamped(placed.y + placed.height / 2, joint.y, joint.y + joint.height);
  const y1 = above ? placed.y + placed.height : placed.y > joint.y + joint.height ? placed.y : y0;
  return { ...placed, leader: { x0: joint.x + joint.width / 2, y0, x1, y1 } };
}

/** In rows below everything, each as near under its joint as the row allows. */
function inRows(sized: Sized[], strip: Box, floor: number): Label[] {
  const rows: number[] = [];
  return [...sized]
    .sort((a, b) => a.joint.x - b.joint.x)
    .map((each) => {
      const width = each.widths[0];
      const wanted = clamped(each.joint.x, strip.x, strip.x + strip.width - width);
      let row = rows.findIndex((end) => end + 2 * SPACE <= wanted);
      if (row < 0) row = rows.length;
      rows[row] = wanted + width;
      return led(label(each, 1, wanted, floor + CLEAR + row * (LINE + CLEAR)), each.joint);
    });
}

function first<T>(of: Iterable<T>, fits: (each: T) => boolean): T | undefined {
  for (const each of of) if (fits(each)) return each;
  return undefined;
}

const clamped = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value));

function inside(box: Box, frame: Box): boolean {
  return (
    box.x >= frame.x &&
    box.y >= frame.y &&
    box.x + box.width <= frame.x + frame.width &&
    box.y + box.height <= frame.y + frame.height
  );
}

/** Whether two boxes share some of the plane. */
export function meet(a: Box, b: Box): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
}

/** A band's middle at even steps of x, from left to right, so that thousands of places are tried in a millisecond. */
interface Walked {
  left: number;
  step: number;
  middle: number[];
  half: number;
}

const STEPS = 48;

export function walked(band: Band): Walked {
  const [left, right] = [Math.min(band.x0, band.x1), Math.max(band.x0, band.x1)];
  const step = Math.max((right - left) / STEPS, 1e-9);
  const middle = Array.from({ length: STEPS + 1 }, (_, k) => middleAt(band, left + k * step));
  return { left, step, middle, half: Math.max(band.thickness / 2, 0.5) };
}

/**
 * Whether a band runs into a box: it only rises or only falls, so that the steps just outside the box's width tell; a
 * box that it all but touches counts as run into.
 */
export function runsInto({ left, step, middle, half }: Walked, box: Box): boolean {
  const from = Math.floor((box.x - left) / step);
  const to = Math.ceil((box.x + box.width - left) / step);
  if (to <= 0 || from >= STEPS) return false;
  const [a, b] = [middle[Math.max(from, 0)] ?? 0, middle[Math.min(to, STEPS)] ?? 0];
  return Math.min(a, b) - half < box.y + box.height && Math.max(a, b) + half > box.y;
}
