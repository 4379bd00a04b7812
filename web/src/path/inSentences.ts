import type { Forecast } from "../api/client";
import { flows } from "./flows";

/** The strip in sentences, from the sources to the coils, for those who do not see it. */
export function inSentences(forecast: Forecast): string {
  const { nodes, links } = flows(forecast);
  const [given, through, lost] = [
    nodes.filter((node) => node.id.startsWith("source")),
    nodes.filter((node) => node.kind === "current" && !node.id.startsWith("source")),
    nodes.filter((node) => ["vehicle", "heat", "output"].includes(node.kind)),
  ];
  const from = (id: string) => {
    const name = nodes.find((node) => node.id === links.find((link) => link.target === id)?.source)?.label;
    return name ? `, from ${name}` : "";
  };
  return [
    `Given: ${given.map(({ label, detail }) => `${label} ${detail}`).join("; ")}.`,
    `On the way: ${through.map(({ label, detail }) => `${label} at ${detail}`).join("; ")}.`,
    `Ends: ${lost.map(({ id, label, detail }) => `${label} ${detail}${from(id)}`).join("; ")}.`,
  ].join(" ");
}
