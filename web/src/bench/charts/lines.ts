import type { Curve } from "../../api/client";
import { fixed, plain, watts } from "../../ui/format";
import { CRITERIA, type Criterion } from "../criteria";

/** What a chart over load can show. Watts are at 14.4 V; the rest is as the bench saw it. */
export const QUANTITIES = {
  power_w: { words: "Watts", axis: "watts at 14.4 V", unit: "W", log: true, shown: watts },
  efficiency: { words: "Efficiency", axis: "efficiency, %", unit: "%", log: false, shown: plain },
  supply_a: { words: "Drawn", axis: "amps drawn, on the bench", unit: "A", log: false, shown: oneDecimal },
  heat_w: { words: "Heat", axis: "watts of heat, on the bench", unit: "W", log: false, shown: watts },
  supply_v: { words: "Supply", axis: "supply volts under load", unit: "V", log: false, shown: twoDecimals },
} as const;
export type Quantity = keyof typeof QUANTITIES;

/** One line of a chart with its band, its readings, and how it is drawn. */
export interface Line {
  name: string;
  colour: string;
  dash: "solid" | readonly number[];
  symbol: string;
  load: number[];
  value: number[];
  low: number[];
  high: number[];
  rules: string[];
  points: [number, number][];
  /** A thin line without readings: one of the limits. */
  thin: boolean;
}

const RULES = { voltage: "its voltage", current: "its current", power: "its supply stage" } as const;
const LIMIT_DASH = { voltage: [2, 3], current: [8, 3], power: [8, 3, 2, 3] } as const;

/** The lines of a quantity: every criterion, or one of them with its three limits, and another sheet beside it. */
export function linesOf(
  curves: readonly Curve[],
  quantity: Quantity,
  only: Criterion | "all",
  other: { name: string; curves: readonly Curve[] } | null,
): Line[] {
  const shown = curves.filter((curve) => only === "all" || curve.criterion === only);
  const lines = shown.map((curve) => lineOf(curve, quantity));
  const one = shown[0];
  if (quantity === "power_w" && only !== "all" && one) lines.unshift(...limitsOf(one));
  if (other) {
    const theirs = other.curves.filter((curve) => shown.some((each) => each.criterion === curve.criterion));
    lines.unshift(
      ...theirs.map((curve) => ({
        ...lineOf(curve, quantity),
        name: `${CRITERIA[curve.criterion].words}, ${other.name}`,
        colour: "--soft",
        low: [],
        high: [],
      })),
    );
  }
  return lines;
}

function lineOf(curve: Curve, quantity: Quantity): Line {
  const { words, colour, dash, symbol } = CRITERIA[curve.criterion];
  const factor = quantity === "efficiency" ? 100 : 1;
  const banded = quantity === "power_w";
  return {
    name: words,
    colour,
    dash,
    symbol,
    load: curve.load_ohm,
    value: curve[quantity].map((value) => value * factor),
    low: banded ? curve.low_w : [],
    high: banded ? curve.high_w : [],
    rules: banded ? curve.limited_by.map((rule) => RULES[rule]) : [],
    points: curve.readings.flatMap((reading): [number, number][] => {
      const value = reading[quantity];
      return value == null ? [] : [[reading.load_ohm, value * factor]];
    }),
    thin: false,
  };
}

function limitsOf(curve: Curve): Line[] {
  const top = 1.6 * Math.max(...curve.high_w);
  return (["voltage", "current", "power"] as const).map((rule) => {
    const inView = curve.load_ohm
      .map((ohm, i) => [ohm, curve.limits_w[rule]?.[i] ?? 0] as const)
      .filter(([, watt]) => watt <= top);
    // The voltage limit runs into the curve at high loads, so it is named at its other end.
    if (rule === "voltage") inView.reverse();
    return {
      name: `${rule === "power" ? "supply" : rule} limit`,
      colour: "--soft",
      dash: LIMIT_DASH[rule],
      symbol: "circle",
      load: inView.map(([ohm]) => ohm),
      value: inView.map(([, watt]) => watt),
      low: [],
      high: [],
      rules: [],
      points: [],
      thin: true,
    };
  });
}

function oneDecimal(value: number): string {
  return fixed(value, 1);
}

function twoDecimals(value: number): string {
  return fixed(value, 2);
}
