import type { ScheduleRow } from "../../api/client";

export type Point = readonly [number, number];

export interface Box {
  name: string;
  x: number;
  y: number;
}

export interface FuseMark {
  x: number;
  y: number;
  label: string;
}

/** A line of the drawing: the positive drawn full, a return dashed, with its words beside it. */
export interface Wire {
  tag: string;
  dashed: boolean;
  points: Point[];
  words: [string, string];
  at: Point;
  fuses: FuseMark[];
}

/** A short way to the body's metal below a box. */
export interface Ground {
  tag: string;
  words: string;
  at: Point;
}

export interface CableDrawing {
  width: number;
  height: number;
  boxes: Box[];
  wires: Wire[];
  grounds: Ground[];
}

export const BOX = { width: 148, height: 56 };
export const STUB = 20;
const GAP = 172;
const ROW = 150;
const MARGIN = { x: 8, top: 34, bottom: 12 };
const TRUNK = { positive: 14, return: 24 };
const APART = { positive: -14, return: 18 };
const FUSE_IN = 34;
const LABEL_IN = 20;
const GROUND_EVERY = 70;

interface Link {
  row: ScheduleRow;
  near: string;
  far: string;
}

/**
 * The whole path from the cut list: a box for each place, the current's way from left to right, a line for each
 * positive cable and each return, fuses at the ends where they sit. A pure function; speakers hang on their amplifier.
 */
export function drawCables(
  rows: readonly ScheduleRow[],
  words: (row: ScheduleRow) => [string, string],
): CableDrawing {
  const links = linksOf(rows);
  const root = rootOf(links);
  if (root === null) return { width: 0, height: 0, boxes: [], wires: [], grounds: [] };
  const places = layOut(root, links);
  const deepest = Math.max(...[...places.values()].map((place) => place.column));
  const lines = Math.max(...[...places.values()].map((place) => place.line)) + 1;
  const boxes = [...places].map(([key, { column, line }]) => ({
    name: key.split("|")[0] ?? key,
    x: MARGIN.x + column * (BOX.width + GAP),
    y: MARGIN.top + line * ROW,
  }));
  const boxAt = new Map([...places.keys()].map((key, i) => [key, boxes[i] as Box]));
  const wires = links.flatMap((link) => {
    const [near, far] = [boxAt.get(link.near), boxAt.get(link.far)];
    if (!near || !far) return [];
    const back = rows.find((row) => row.part === "return" && row.cable === link.row.cable);
    const out = wire(link, near, far, "positive", words(link.row));
    return back ? [out, wire({ ...link, row: back }, near, far, "return", words(back))] : [out];
  });
  return {
    width: 2 * MARGIN.x + (deepest + 1) * BOX.width + deepest * GAP,
    height: MARGIN.top + lines * ROW + MARGIN.bottom - (ROW - BOX.height - 52),
    boxes,
    wires,
    grounds: groundsOf(rows, boxes, words),
  };
}

/** Positive cables and speaker leads as links between places, the nearer to the source first. */
function linksOf(rows: readonly ScheduleRow[]): Link[] {
  const reached = new Set<string>();
  return rows
    .filter((row) => row.part === "positive" || row.part === "speaker")
    .map((row) => {
      const end = row.part === "speaker" ? `drivers|${row.tag}` : row.end;
      const turned = reached.has(end) && !reached.has(row.start);
      const [near, far] = turned ? [end, row.start] : [row.start, end];
      reached.add(near).add(far);
      return { row, near, far };
    });
}

function rootOf(links: readonly Link[]): string | null {
  const far = new Set(links.map((link) => link.far));
  return links.find((link) => !far.has(link.near))?.near ?? null;
}

/** Column by depth, line by leaf: each place stands at the height of its first branch. */
function layOut(root: string, links: readonly Link[]): Map<string, { column: number; line: number }> {
  const places = new Map<string, { column: number; line: number }>();
  let next = 0;
  const visit = (place: string, column: number) => {
    const branches = links.filter((link) => link.near === place && !places.has(link.far));
    const line = next;
    places.set(place, { column, line });
    if (branches.length === 0) next += 1;
    for (const branch of branches) visit(branch.far, column + 1);
  };
  visit(root, 0);
  return places;
}

function wire(link: Link, near: Box, far: Box, kind: "positive" | "return", words: [string, string]): Wire {
  const from: Point = [near.x + BOX.width, near.y + BOX.height / 2 + APART[kind]];
  const to: Point = [far.x, far.y + BOX.height / 2 + APART[kind]];
  const trunk = from[0] + TRUNK[kind];
  const points: Point[] = from[1] === to[1] ? [from, to] : [from, [trunk, from[1]], [trunk, to[1]], to];
  const turned = link.row.part !== "speaker" && link.near !== link.row.start && kind === "positive";
  const [first, last] = turned
    ? [link.row.fuse_end, link.row.fuse_start]
    : [link.row.fuse_start, link.row.fuse_end];
  const fuses = [
    { fuse: first, x: trunk + FUSE_IN },
    { fuse: last, x: to[0] - FUSE_IN },
  ].flatMap(({ fuse, x }) =>
    fuse ? [{ x, y: to[1], label: fuse.rating_a === null ? "none fits" : `${fuse.rating_a} A` }] : [],
  );
  return {
    tag: link.row.tag,
    dashed: kind === "return",
    points,
    words,
    at: [trunk + LABEL_IN, to[1] + (kind === "positive" ? -27 : 20)],
    fuses,
  };
}

/** Straps and short leads to the body, below the box where they start. */
function groundsOf(
  rows: readonly ScheduleRow[],
  boxes: readonly Box[],
  words: (row: ScheduleRow) => [string, string],
): Ground[] {
  const used = new Map<string, number>();
  return rows
    .filter((row) => row.part === "body" || row.part === "strap")
    .flatMap((row) => {
      const box =
        boxes.find((each) => each.name === row.start) ?? boxes.find((each) => each.name === row.end);
      if (!box) return [];
      const before = used.get(box.name) ?? 0;
      used.set(box.name, before + 1);
      const at: Point = [box.x + 16 + before * GROUND_EVERY, box.y + BOX.height];
      return [{ tag: row.tag, words: words(row)[0], at }];
    });
}
