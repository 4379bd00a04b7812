import type { LoadResult } from "../../api/client";
import { fixed, watts } from "../../ui/format";

type Curves = LoadResult["curves"];

export interface FrequencyLine {
  name: string;
  colour: string;
  dash: "solid" | readonly number[];
  value: readonly number[];
  right?: boolean;
  points?: [number, number][];
}

/** What can be drawn over frequency: its lines, the axes' names, and whether the left axis begins at nothing. */
export const VIEWS = {
  ohms: { words: "Ohms and phase", left: "ohms", right: "degrees" },
  watts: { words: "Watts", left: "watts, volt-amperes", right: "" },
  amps: { words: "Amps", left: "amps", right: "" },
  travel: { words: "Cone travel", left: "mm, one way", right: "" },
  level: { words: "Level", left: "dB at 1 m, ± 5 dB", right: "" },
} as const;
export type View = keyof typeof VIEWS;

/** The lines of a view; measured points over the line that was drawn through them. */
export function linesOf(curves: Curves, view: View): FrequencyLine[] {
  const { travel, sweep, readings } = curves;
  switch (view) {
    case "ohms":
      return [
        {
          name: "|Z|",
          colour: "--copper",
          dash: "solid",
          value: curves.impedance_ohm,
          points: pointsOf(sweep, "impedance_ohm").concat(pointsOf(readings, "impedance_ohm")),
        },
        { name: "phase", colour: "--teal", dash: [6, 4], value: curves.phase_deg, right: true },
      ];
    case "watts":
      return [
        { name: "true watts", colour: "--copper", dash: "solid", value: curves.true_w },
        { name: "volt-amperes", colour: "--soft", dash: [6, 4], value: curves.apparent_va },
      ];
    case "amps":
      return [
        { name: "into the coils", colour: "--copper", dash: "solid", value: curves.output_a },
        { name: "from the supply", colour: "--teal", dash: [6, 4], value: curves.supply_a },
      ];
    case "travel":
      return travel
        ? [
            { name: "travel", colour: "--copper", dash: "solid", value: travel.peak_mm },
            ...(travel.limit_mm == null
              ? []
              : [
                  {
                    name: "its limit",
                    colour: "--vermilion",
                    dash: [3, 3],
                    value: curves.frequency_hz.map(() => travel.limit_mm ?? 0),
                  },
                ]),
          ]
        : [];
    case "level":
      return travel
        ? [
            { name: "in the cabin", colour: "--copper", dash: "solid", value: travel.cabin_db },
            { name: "outdoors", colour: "--soft", dash: [6, 4], value: travel.level_db },
          ]
        : [];
  }
}

function pointsOf(points: Curves["sweep"], key: "impedance_ohm"): [number, number][] {
  return points ? points.frequency_hz.map((hz, i) => [hz, points[key][i] ?? 0]) : [];
}

/** Every figure at one frequency, in words. */
export function figuresAt(curves: Curves, i: number): [string, string][] {
  const { travel } = curves;
  const at = (values: readonly number[] | undefined) => values?.[i] ?? 0;
  const figures: [string, string][] = [
    ["|Z|", `${fixed(at(curves.impedance_ohm), 2)} Ω`],
    ["phase", `${fixed(at(curves.phase_deg), 0)}°`],
    ["rise", `${fixed(at(curves.impedance_ohm) / curves.nominal_ohm, 2)} ×`],
    ["true power", `${watts(at(curves.true_w))} W`],
    ["apparent", `${watts(at(curves.apparent_va))} VA`],
    ["true to apparent", `${fixed(at(curves.true_to_apparent) * 100, 0)} %`],
    ["output", `${fixed(at(curves.output_v), 1)} V · ${fixed(at(curves.output_a), 1)} A`],
    ["from the supply", `${fixed(at(curves.supply_a), 0)} A`],
  ];
  if (travel) {
    figures.push(["cone travel", `${fixed(at(travel.peak_mm), 1)} mm`]);
    if (travel.limit_mm != null) figures.push(["limit reached at", limit(at(travel.watts_at_limit))]);
    figures.push(["in the cabin", `${fixed(at(travel.cabin_db), 0)} dB`]);
  }
  return figures;
}

function limit(watt: number): string {
  return watt >= 1e6 ? "never" : `${watts(watt)} W`;
}
