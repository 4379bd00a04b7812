import type { Asked, Job } from "../../api/client";

type What = Asked["what"];

/** What can be read, in words, with the kind of place that it is read at. */
export const KINDS: readonly (readonly [
  What,
  string,
  "node" | "cable" | "element" | "bank" | "amplifier",
])[] = [
  ["volts", "Volts to ground", "node"],
  ["drop", "Voltage drop between two points", "cable"],
  ["amps", "Current by clamp", "element"],
  ["resting_v", "Resting volts", "bank"],
  ["output_v", "Output volts", "amplifier"],
  ["output_a", "Output amps", "amplifier"],
  ["phase", "Phase at the output", "amplifier"],
  ["true_power", "True power", "amplifier"],
  ["coil_ohm", "Ohms of the coils", "amplifier"],
  ["sink_temperature", "Heat sink temperature", "amplifier"],
];

export const UNITS: Record<What, string> = {
  volts: "V",
  drop: "V",
  amps: "A",
  resting_v: "V",
  output_v: "V",
  output_a: "A",
  phase: "°",
  true_power: "W",
  coil_ohm: "Ω",
  sink_temperature: "°C",
};

/** The places of a job by the kind of reading, as (name in the job, words). */
export function placesFor(what: What, job: Job): [string, string][] {
  const amplifiers = (job.amplifiers ?? []).map((one): [string, string] => [one.id, one.name]);
  const kind = KINDS.find(([key]) => key === what)?.[2];
  const named = (parts: readonly { name: string }[]) =>
    parts.map((one): [string, string] => [one.name, one.name]);
  switch (kind) {
    case "amplifier":
      return amplifiers;
    case "bank":
      return named(job.banks ?? []);
    case "element":
      return [
        ...named([...(job.chargers ?? []), ...(job.banks ?? []), ...(job.cables ?? [])]),
        ...amplifiers,
        ["vehicle", "the vehicle's own loads"],
      ];
    default: {
      const nodes = new Set(["front"]);
      for (const cable of job.cables ?? []) for (const end of [cable.from, cable.to]) nodes.add(end);
      for (const part of [...(job.banks ?? []), ...(job.amplifiers ?? [])]) nodes.add(part.at ?? "front");
      return [
        ...[...nodes].map((one): [string, string] => [one, one === "front" ? "front battery" : one]),
        ...amplifiers,
      ];
    }
  }
}
