import { sankey, type SankeyLink, type SankeyNode } from "d3-sankey";

import type { Forecast } from "../api/client";
import { flows, type FlowLink, type FlowNode, type Kind } from "./flows";

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Joint extends FlowNode, Box {
  watts: number;
}

/** A flow as it is drawn: as thick all the way, from (x0, y0) to (x1, y1), level at both ends. */
export interface Band {
  id: string;
  kind: Kind;
  watts: number;
  from: string;
  target: string;
  to: string;
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  thickness: number;
}

export interface Layout {
  joints: Joint[];
  bands: Band[];
}

type N = SankeyNode<FlowNode, FlowLink>;
type L = SankeyLink<FlowNode, FlowLink>;

export const JOINT_WIDTH = 7;
/** Two lines of words; the share of the height that may be space. */
const [WORDS, MOST_SPACE] = [36, 0.65];
const SINKS: Kind[] = ["vehicle", "charge", "heat"];

/** Joints and bands inside a box; a pure function of the forecast. */
export function layout(forecast: Forecast, box: Box): Layout {
  const { nodes: found, links } = flows(forecast);
  if (links.length === 0) return { joints: [], bands: [] };
  const used = [...new Set(found.map((node) => node.column))].sort((a, b) => a - b);
  const nodes = found.map((node) => ({ ...node, column: used.indexOf(node.column) }));
  const last = used.length - 1;
  const space = apart(mostAlike(nodes.map((node) => node.column)), box.height);
  // What leaves on the way stands below what goes on; at the coils each amplifier's heat stands with its own.
  const below = ({ kind, column }: { kind: Kind; column?: number }) =>
    Number(SINKS.includes(kind) && column !== last);
  const fill = fillers(nodes.length);
  const graph = sankey<FlowNode, FlowLink>()
    .nodeId((node) => node.id)
    .nodeAlign((node) => node.column)
    .nodeSort((a, b) => below(a) - below(b))
    .linkSort((a, b) => below(a) - below(b))
    .nodeWidth(JOINT_WIDTH)
    .nodePadding(space)
    .extent([
      [box.x, box.y],
      [box.x + box.width, box.y + box.height + space],
    ])({ nodes: [...nodes, ...fill.nodes], links: [...links, ...fill.links] });
  for (const node of graph.nodes) {
    node.x0 = box.x + (node.column * (box.width - JOINT_WIDTH)) / Math.max(last, 1);
    node.x1 = node.x0 + JOINT_WIDTH;
  }
  return {
    joints: graph.nodes.slice(0, nodes.length).map(joint),
    bands: graph.links.slice(0, links.length).map(band),
  };
}

/**
 * A row of joints without watts, one in every column. The layout counts columns by the longest way of the watts and
 * wants somebody in each; where current runs back, that is another number than there are columns here.
 */
function fillers(count: number): { nodes: FlowNode[]; links: FlowLink[] } {
  const nodes = Array.from({ length: count }, (_, i): FlowNode => {
    return { id: `filler ${i}`, label: "", detail: "", kind: "heat", column: i, to: "" };
  });
  const links = nodes.slice(1).map(({ id, kind, to }, i) => {
    return { source: `filler ${i}`, target: id, value: 0, kind, to };
  });
  return { nodes, links };
}

/** The space between so many joints: room for their words, and never so much that the bands have no height left. */
function apart(joints: number, height: number): number {
  return Math.min(Math.max(WORDS, height / 5), (MOST_SPACE * height) / Math.max(joints - 1, 1));
}

/** How often the most frequent of some numbers is there. */
function mostAlike(numbers: readonly number[]): number {
  const counts = new Map<number, number>();
  for (const each of numbers) counts.set(each, (counts.get(each) ?? 0) + 1);
  return Math.max(...counts.values());
}

/** How many columns of joints there are. */
export function columns(forecast: Forecast): number {
  return new Set(flows(forecast).nodes.map((node) => node.column)).size;
}

function joint({ id, label, detail, kind, column, to, ...at }: N): Joint {
  const [x = 0, y = 0] = [at.x0, at.y0];
  const height = (at.y1 ?? y) - y;
  return { id, label, detail, kind, column, to, x, y, width: JOINT_WIDTH, height, watts: at.value ?? 0 };
}

function band(link: L): Band {
  const [source, target] = [link.source as N, link.target as N];
  return {
    id: `${source.id} → ${target.id}`,
    kind: link.kind,
    watts: link.value,
    from: source.id,
    target: target.id,
    to: link.to,
    x0: source.x1 ?? 0,
    y0: link.y0 ?? 0,
    x1: target.x0 ?? 0,
    y1: link.y1 ?? 0,
    thickness: link.width ?? 0,
  };
}

/** A band's outline, as a path of always the same commands, so that one can turn into another. */
export function outline({ x0, y0, x1, y1, thickness }: Band): string {
  const [half, middle] = [thickness / 2, (x0 + x1) / 2];
  return (
    `M${x0},${y0 - half}C${middle},${y0 - half} ${middle},${y1 - half} ${x1},${y1 - half}` +
    `L${x1},${y1 + half}C${middle},${y1 + half} ${middle},${y0 + half} ${x0},${y0 + half}Z`
  );
}

/** Where the middle of a band runs at some x between its ends. */
export function middleAt({ x0, y0, x1, y1 }: Band, x: number): number {
  const along = (x - x0) / (x1 - x0);
  let [low, high] = [0, 1];
  // The curve's own x is 1.5 t − 1.5 t² + t³: it only grows, so that halving finds t.
  for (let i = 0; i < 20; i++) {
    const t = (low + high) / 2;
    if (1.5 * t - 1.5 * t * t + t ** 3 < along) low = t;
    else high = t;
  }
  return y0 + (y1 - y0) * (3 * low * low - 2 * low ** 3);
}
