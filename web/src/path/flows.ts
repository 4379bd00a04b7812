import type { Forecast } from "../api/client";
import { meanBand } from "../job/meanBand";
import { amps, fixed, watts } from "../ui/format";

/** What a band stands for; its colour, its hatching and its words follow from it. */
export type Kind = "current" | "output" | "vehicle" | "charge" | "heat";

/** A place where watts come from, go through or end; `column` counts from the sources to the coils. */
export interface FlowNode {
  id: string;
  label: string;
  detail: string;
  kind: Kind;
  column: number;
  /** Where in the job it leads: a station, and the field or cable there. */
  to: string;
}

export interface FlowLink {
  source: string;
  target: string;
  value: number;
  kind: Kind;
  to: string;
}

interface Flows {
  nodes: FlowNode[];
  links: FlowLink[];
}

const LEAST_WATTS = 0.01;
/** Less of a source or of a cable's loss than this is not told; of a loss neither what would be thinner than a hair. */
const LEAST_TOLD_W = { source: 0.5, heat: 1 };
const LEAST_SHARE = 0.004;

const toField = (station: string, field: string) => `${station}?at=${encodeURIComponent(field)}`;
const toCable = (name: string) => `cable?cable=${encodeURIComponent(name)}`;

/**
 * The path as flows of watts: sources, battery posts, runs, amplifiers, coils, and what leaves on the way.
 * Band widths are watts on one scale, so that what enters a joint equals what leaves it.
 */
export function flows(forecast: Forecast): Flows {
  const layers = layersOf(forecast);
  const parts = [
    places(forecast, layers),
    ...forecast.path.sources.map((source, i) => sourceFlow(source, i, layers)),
    vehicleFlow(forecast, layers),
    ...forecast.path.edges.map((edge) => cableFlow(edge, layers, leastTold(forecast))),
    ...forecast.amplifiers.map((each, i) => amplifierFlow(each, i, Math.max(1, ...layers.values()) + 1)),
  ];
  const links = parts.flatMap((each) => each.links).filter((link) => link.value >= LEAST_WATTS);
  const joined = new Set(links.flatMap(({ source, target }) => [source, target]));
  return { nodes: parts.flatMap((each) => each.nodes).filter(({ id }) => joined.has(id)), links };
}

function places({ path, amplifiers }: Forecast, layers: Map<string, number>): Flows {
  const nodes = path.nodes.map(({ name, words, volts }): FlowNode => {
    const amplifier = amplifiers.findIndex((each) => each.node === name);
    return {
      id: name,
      label: words.charAt(0).toUpperCase() + words.slice(1),
      detail: `${fixed(volts, 2)} V`,
      kind: "current",
      column: layers.get(name) ?? 1,
      to: amplifier < 0 ? "supply" : toField("amplifiers", `amplifiers.${amplifier}`),
    };
  });
  return { nodes, links: [] };
}

function sourceFlow(
  source: Forecast["path"]["sources"][number],
  i: number,
  layers: Map<string, number>,
): Flows {
  if (Math.abs(source.watts) < LEAST_TOLD_W.source) return { nodes: [], links: [] };
  const id = `source ${i}`;
  const giving = source.watts > 0;
  const current = `${amps(Math.abs(source.amps))} A`;
  const kind = giving ? "current" : "charge";
  const to = toField("supply", source.field);
  const layer = layers.get(source.node) ?? 1;
  const node: FlowNode = {
    id,
    label: source.name,
    detail: giving ? (source.at_limit ? `${current}, all it has` : current) : `${current} into it`,
    kind,
    column: giving ? layer - 1 : layer + 1,
    to,
  };
  const [from, target] = giving ? [id, source.node] : [source.node, id];
  return { nodes: [node], links: [{ source: from, target, value: Math.abs(source.watts), kind, to }] };
}

function vehicleFlow({ path }: Forecast, layers: Map<string, number>): Flows {
  const to = toField("supply", "vehicle");
  const node: FlowNode = {
    id: "vehicle",
    label: "The car itself",
    detail: `${amps(path.vehicle_a)} A`,
    kind: "vehicle",
    column: (layers.get("front") ?? 1) + 1,
    to,
  };
  const link = { source: "front", target: "vehicle", value: path.vehicle_w, kind: "vehicle", to } as const;
  return { nodes: [node], links: [link] };
}

function leastTold({ path }: Forecast): number {
  const given = path.sources.reduce((sum, { watts }) => sum + Math.max(watts, 0), 0);
  return Math.max(LEAST_TOLD_W.heat, LEAST_SHARE * given);
}

function cableFlow(
  edge: Forecast["path"]["edges"][number],
  layers: Map<string, number>,
  leastW: number,
): Flows {
  const [from, target] = edge.amps >= 0 ? [edge.start, edge.end] : [edge.end, edge.start];
  const to = toCable(edge.name);
  const carried: FlowLink = { source: from, target, value: edge.watts_out, kind: "current", to };
  if (edge.heat_w < leastW) return { nodes: [], links: [carried] };
  const id = `heat of ${edge.name}`;
  const lost: FlowNode = {
    id,
    label: edge.name,
    detail: `${amps(Math.abs(edge.amps))} A, −${fixed(Math.abs(edge.drop_v), 2)} V, ${watts(edge.heat_w)} W lost`,
    kind: "heat",
    column: layers.get(target) ?? 2,
    to,
  };
  return {
    nodes: [lost],
    links: [carried, { source: from, target: id, value: edge.heat_w, kind: "heat", to }],
  };
}

function amplifierFlow(each: Forecast["amplifiers"][number], i: number, column: number): Flows {
  const [coils, heat] = [`coils of ${each.id}`, `heat of ${each.id}`];
  const toLoad = toField("load", `amplifiers.${i}.load`);
  const toSheet = toField("amplifiers", `amplifiers.${i}`);
  return {
    nodes: [
      {
        id: coils,
        label: "In the coils",
        detail: `${watts(each.delivered_mean_w, meanBand(each))} W`,
        kind: "output",
        column,
        to: toLoad,
      },
      { id: heat, label: "Heat", detail: `${watts(each.heat_w)} W`, kind: "heat", column, to: toSheet },
    ],
    links: [
      {
        source: each.node,
        target: coils,
        value: each.delivered_mean_w + each.lead_heat_w,
        kind: "output",
        to: toLoad,
      },
      { source: each.node, target: heat, value: each.heat_w, kind: "heat", to: toSheet },
    ],
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
