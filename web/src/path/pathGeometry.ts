import { sankey, type SankeyLink, type SankeyNode } from "d3-sankey";

import type { Forecast } from "../api/client";

/** What a band stands for; its colour and its words follow from it. */
export type Kind = "current" | "output" | "vehicle" | "charge" | "heat";

export interface Joint {
  id: string;
  label: string;
  detail: string;
  kind: Kind;
  column: number;
  cable: string | null;
  x: number;
  y: number;
  height: number;
  watts: number;
}

export interface Band {
  id: string;
  kind: Kind;
  /** The cable it stands for, where it does. */
  cable: string | null;
  watts: number;
  width: number;
  path: string;
  from: string;
  to: string;
}

export interface Drawing {
  joints: Joint[];
  bands: Band[];
}

interface NodeIn {
  id: string;
  label: string;
  detail: string;
  kind: Kind;
  column: number;
  cable?: string;
}
interface LinkIn {
  source: string;
  target: string;
  value: number;
  kind: Kind;
  cable?: string;
}
type N = SankeyNode<NodeIn, LinkIn>;
type L = SankeyLink<NodeIn, LinkIn>;

const JOINT_WIDTH = 7;
const LEAST_WATTS = 0.01;
const COLUMN = 110;
/** A letter of the strip at most, on the average; how far words stand from a joint that they are beside; between words. */
const [LETTER, BESIDE, APART] = [7.3, 13, 10];

/**
 * The path as flows of watts: sources, battery posts, runs, amplifiers, coils, and what leaves on the way.
 * Band widths are watts on one scale, so that what enters a joint equals what leaves it.
 */
export function flows(forecast: Forecast): { nodes: NodeIn[]; links: LinkIn[] } {
  const { path, amplifiers } = forecast;
  const layers = layersOf(forecast);
  const deepest = Math.max(1, ...layers.values());
  const nodes: NodeIn[] = [];
  const links: LinkIn[] = [];
  const add = (node: NodeIn) => nodes.push(node);
  const link = (source: string, target: string, value: number, kind: Kind, cable?: string) => {
    if (value >= LEAST_WATTS) links.push({ source, target, value, kind, ...(cable && { cable }) });
  };
  for (const { name, words, volts } of path.nodes) {
    const label = words.charAt(0).toUpperCase() + words.slice(1);
    add({ id: name, label, detail: `${volts.toFixed(2)} V`, kind: "current", column: layers.get(name) ?? 1 });
  }
  path.sources.forEach((source, i) => {
    const id = `source ${i}`;
    const layer = layers.get(source.node) ?? 1;
    const giving = source.watts > 0;
    if (Math.abs(source.watts) < 0.5) return;
    const amps = `${Math.abs(source.amps).toFixed(source.amps < 9.95 ? 1 : 0)} A`;
    const words = giving ? (source.at_limit ? `${amps}, all it has` : amps) : `${amps} into it`;
    add({
      id,
      label: source.name,
      detail: words,
      kind: giving ? "current" : "charge",
      column: giving ? layer - 1 : layer + 1,
    });
    if (giving) link(id, source.node, source.watts, "current");
    else link(source.node, id, -source.watts, "charge");
  });
  if (path.vehicle_w >= LEAST_WATTS) {
    add({
      id: "vehicle",
      label: "The car itself",
      detail: `${path.vehicle_a.toFixed(0)} A`,
      kind: "vehicle",
      column: (layers.get("front") ?? 1) + 1,
    });
    link("front", "vehicle", path.vehicle_w, "vehicle");
  }
  for (const edge of path.edges) {
    const forward = edge.amps >= 0;
    const [from, to] = forward ? [edge.start, edge.end] : [edge.end, edge.start];
    link(from, to, edge.watts_out, "current", edge.name);
    if (edge.heat_w >= 1) {
      const id = `heat of ${edge.name}`;
      const detail = `${Math.abs(edge.amps).toFixed(0)} A −${Math.abs(edge.drop_v).toFixed(2)} V ${edge.heat_w.toFixed(0)} W`;
      add({ id, label: edge.name, detail, kind: "heat", column: layers.get(to) ?? 2, cable: edge.name });
      link(from, id, edge.heat_w, "heat", edge.name);
    }
  }
  for (const amplifier of amplifiers) {
    const out = amplifier.delivered_mean_w + amplifier.lead_heat_w;
    const coils = `coils of ${amplifier.id}`;
    const heat = `heat of ${amplifier.id}`;
    add({
      id: coils,
      label: "In the coils",
      detail: `${amplifier.delivered_mean_w.toFixed(0)} W`,
      kind: "output",
      column: deepest + 1,
    });
    add({
      id: heat,
      label: "Heat",
      detail: `${amplifier.heat_w.toFixed(0)} W`,
      kind: "heat",
      column: deepest + 1,
    });
    link(amplifier.node, coils, out, "output");
    link(amplifier.node, heat, amplifier.heat_w, "heat");
  }
  return {
    nodes: nodes.filter((node) => links.some((l) => l.source === node.id || l.target === node.id)),
    links,
  };
}

/**
 * Columns of the places: from the charger's side through the front posts to the amplifiers, sources one before. The
 * ways to charger and front posts run left from where the amplifiers' way leaves them, all others right.
 */
function layersOf({ path, amplifiers }: Forecast): Map<string, number> {
  const way = between("front", "charger", path.edges) ?? ["front"];
  const fed = (place: string) =>
    amplifiers.some(({ node }) => {
      const to = between(place, node, path.edges);
      return to !== null && !to.slice(1).some((each) => way.includes(each));
    });
  const anchor = way.find(fed) ?? "front";
  const layers = new Map<string, number>();
  for (const { name } of path.nodes) {
    const to = between(anchor, name, path.edges);
    if (to) layers.set(name, way.includes(name) ? 1 - to.length : to.length - 1);
  }
  const first = Math.min(0, ...layers.values());
  for (const [place, layer] of layers) layers.set(place, layer - first + 1);
  return layers;
}

/** The places on the way from one to another, both included; null where no cable leads there. */
function between(from: string, to: string, edges: Forecast["path"]["edges"]): string[] | null {
  const ways = new Map([[from, [from]]]);
  for (const [here, way] of ways)
    for (const { start, end } of edges) {
      const there = start === here ? end : end === here ? start : here;
      if (!ways.has(there)) ways.set(there, [...way, there]);
    }
  return ways.get(to) ?? null;
}

const SINKS: Kind[] = ["vehicle", "charge", "heat"];

/** Joints and bands in a drawing of a given size; a pure function of the forecast. */
export function draw(forecast: Forecast, width: number, height: number, stacked = false): Drawing {
  const { nodes, links } = flows(forecast);
  if (links.length === 0) return { joints: [], bands: [] };
  const used = [...new Set(nodes.map((node) => node.column))].sort((a, b) => a - b);
  const rank = new Map(used.map((column, i) => [column, i]));
  const last = used.length - 1;
  const layout = sankey<NodeIn, LinkIn>()
    .nodeId((node) => node.id)
    // The layout wants somebody in every column that it counts; where current runs back it counts more than are drawn.
    .nodeAlign((node, count) =>
      last < count - 1 ? (node.depth ?? 0) : Math.min(rank.get(node.column) ?? 0, count - 1),
    )
    .nodeSort((a, b) => Number(SINKS.includes(a.kind)) - Number(SINKS.includes(b.kind)))
    .linkSort((a, b) => Number(SINKS.includes(a.kind)) - Number(SINKS.includes(b.kind)))
    .nodeWidth(JOINT_WIDTH)
    .nodePadding(Math.max(stacked ? 40 : 20, height / 5))
    .extent([
      [0, 0],
      [width, height],
    ]);
  const graph = layout({ nodes: nodes.map((n) => ({ ...n })), links: links.map((l) => ({ ...l })) });
  const columns = spread(width, last);
  for (const node of graph.nodes) {
    node.x0 = columns(rank.get(node.column) ?? 0);
    node.x1 = node.x0 + JOINT_WIDTH;
  }
  layout.update(graph);
  return { joints: graph.nodes.map(joint), bands: graph.links.map(band) };
}

/** How the words of a joint stand: in a line above it, in two lines above or below it, or in two lines beside it. */
export type Words = "line" | "stacked" | "beside";

/** What a joint says: a cable's loss and what a battery takes stand beside it, as all that leaves does. */
export function wordsOf({ cable, kind }: Pick<Joint, "cable" | "kind">, stacked: boolean): Words {
  if (cable !== null || kind === "charge") return "beside";
  return stacked ? "stacked" : "line";
}

/** The least width at which the words of neighbouring columns keep clear of each other. */
export function leastWidth(forecast: Forecast, stacked = false): number {
  const { nodes } = flows(forecast);
  const columns = new Set(nodes.map((node) => node.column)).size - 1;
  const last = Math.max(...nodes.map((node) => node.column));
  const widest = nodes.map(({ column, label, detail, kind, cable = null }) => {
    if (column === last) return 0;
    const words = wordsOf({ cable, kind }, stacked);
    const letters =
      words === "line" ? label.length + 1 + detail.length : Math.max(label.length, detail.length);
    return LETTER * letters + (words === "beside" || kind === "vehicle" ? BESIDE : 0) + APART;
  });
  return Math.max(COLUMN, ...widest) * Math.max(1, columns);
}

/** Columns for the layers, with room for the sources' words at the left. */
function spread(width: number, last: number): (layer: number) => number {
  return (layer) => (layer * (width - JOINT_WIDTH)) / Math.max(last, 1);
}

function joint(node: N): Joint {
  const { id, label, detail, kind, column, cable = null } = node;
  const top = node.y0 ?? 0;
  return {
    id,
    label,
    detail,
    kind,
    column,
    cable,
    x: node.x0 ?? 0,
    y: top,
    height: (node.y1 ?? top) - top,
    watts: node.value ?? 0,
  };
}

function band(link: L): Band {
  const source = link.source as N;
  const target = link.target as N;
  const half = (link.width ?? 0) / 2;
  const [x0, x1] = [source.x1 ?? 0, target.x0 ?? 0];
  const [a, b] = [link.y0 ?? 0, link.y1 ?? 0];
  const middle = (x0 + x1) / 2;
  const path =
    `M${x0},${a - half}C${middle},${a - half} ${middle},${b - half} ${x1},${b - half}` +
    `L${x1},${b + half}C${middle},${b + half} ${middle},${a + half} ${x0},${a + half}Z`;
  return {
    id: `${source.id} → ${target.id}`,
    kind: link.kind,
    cable: link.cable ?? null,
    watts: link.value,
    width: half * 2,
    path,
    from: source.id,
    to: target.id,
  };
}
