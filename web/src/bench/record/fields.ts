import type { AmplifierRecord } from "../../api/client";
import { full, toNumber } from "../../ui/number";

/** How a field of the record is typed and read back. */
type Kind =
  "text" | "number" | "whole" | "pair" | "triple" | "list" | "words" | "date" | "yesno" | "choice" | "long";

export interface Field {
  key: keyof AmplifierRecord;
  words: string;
  kind: Kind;
  unit?: string;
  choices?: readonly (readonly [string, string])[];
}

const CLASSES = ["A", "AB", "B", "D", "G", "H"].map((name) => [name, name] as const);

/** The record by what an installer looks for together. */
export const GROUPS: readonly (readonly [string, readonly Field[]])[] = [
  [
    "What it is",
    [
      { key: "name", words: "Name", kind: "text" },
      { key: "class", words: "Class", kind: "choice", choices: CLASSES },
      {
        key: "band",
        words: "Plays",
        kind: "choice",
        choices: [
          ["full", "the full band"],
          ["bass", "bass only"],
        ],
      },
      { key: "pass_band_hz", words: "Pass band", kind: "pair", unit: "Hz" },
      { key: "channels", words: "Channels", kind: "whole" },
      {
        key: "measured_as",
        words: "Measured as",
        kind: "choice",
        choices: [
          ["channel", "one channel"],
          ["bridged", "bridged pair"],
        ],
      },
      { key: "bridgeable", words: "Can be bridged", kind: "yesno" },
      { key: "strappable", words: "Two can be strapped", kind: "yesno" },
      { key: "minimum_load_ohm", words: "Lowest safe load", kind: "number", unit: "Ω" },
    ],
  ],
  [
    "Supply and terminals",
    [
      {
        key: "supply",
        words: "Supply stage",
        kind: "choice",
        choices: [
          ["unregulated", "unregulated"],
          ["regulated", "regulated"],
        ],
      },
      { key: "all_channels_driven", words: "All channels played on the bench", kind: "yesno" },
      { key: "system_v", words: "Made for", kind: "number", unit: "V" },
      { key: "idle_a", words: "Idle current", kind: "number", unit: "A" },
      { key: "dropout_v", words: "Holds down to", kind: "number", unit: "V" },
      { key: "cutout_v", words: "Switches off below", kind: "number", unit: "V" },
      { key: "supply_max_v", words: "Takes at most", kind: "number", unit: "V" },
      { key: "fuses_a", words: "Its fuses", kind: "list", unit: "A" },
      { key: "terminal_max", words: "Power terminals up to", kind: "text" },
      { key: "terminal_inputs", words: "Power terminal pairs", kind: "whole" },
      {
        key: "terminal_kind",
        words: "Power terminals take",
        kind: "choice",
        choices: [
          ["clamp", "bare wire or ferrules"],
          ["stud", "rings on a stud"],
        ],
      },
      { key: "speaker_terminals", words: "Speaker terminal pairs", kind: "whole" },
      { key: "damping_factor", words: "Damping factor, its maker's", kind: "number" },
    ],
  ],
  [
    "Inputs, filters, lights",
    [
      {
        key: "inputs",
        words: "Inputs",
        kind: "words",
        choices: [
          ["line", "line"],
          ["high_level", "high level"],
        ],
      },
      { key: "input_range_v", words: "Input range", kind: "pair", unit: "V" },
      { key: "high_pass_range_hz", words: "High-pass from, to", kind: "pair", unit: "Hz" },
      { key: "low_pass_range_hz", words: "Low-pass from, to", kind: "pair", unit: "Hz" },
      { key: "high_pass_set_hz", words: "High-pass while measured", kind: "number", unit: "Hz" },
      { key: "low_pass_set_hz", words: "Low-pass while measured", kind: "number", unit: "Hz" },
      { key: "boost_max_db", words: "Boost up to", kind: "number", unit: "dB" },
      { key: "boost_hz", words: "Boost at", kind: "number", unit: "Hz" },
      {
        key: "lights",
        words: "Lights",
        kind: "words",
        choices: [
          ["clip", "clip"],
          ["protect", "protect"],
        ],
      },
      { key: "overlap_db", words: "Gain set with a tone below full scale by", kind: "number", unit: "dB" },
      { key: "remote_level", words: "Remote level", kind: "yesno" },
      { key: "fans", words: "Fans", kind: "whole" },
    ],
  ],
  [
    "Size, price, notes",
    [
      { key: "size_mm", words: "Length, width, height", kind: "triple", unit: "mm" },
      { key: "mass_kg", words: "Mass", kind: "number", unit: "kg" },
      { key: "price", words: "Price paid", kind: "number" },
      { key: "price_date", words: "Paid on", kind: "date" },
      { key: "list_price", words: "List price", kind: "number" },
      { key: "list_price_date", words: "Listed on", kind: "date" },
      { key: "currency", words: "Currency, such as EUR", kind: "text" },
      { key: "likes", words: "What is liked", kind: "long" },
      { key: "dislikes", words: "What is not", kind: "long" },
    ],
  ],
];

const FIELDS = GROUPS.flatMap(([, fields]) => fields);
export type Draft = Record<string, string>;

/** The record as text, field by field. What is merely assumed is left empty. */
export function draftOf(record: AmplifierRecord): Draft {
  return Object.fromEntries(FIELDS.map((field) => [field.key, textOf(record[field.key])]));
}

function textOf(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value)) return value.join(" ");
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "object") {
    const { value: number, origin } = value as { value: number; origin: string };
    return origin === "assumed" ? "" : full(number);
  }
  return typeof value === "number" ? full(value) : String(value);
}

/** The text read back; what cannot be read as a number is sent as it is, so that the server says what is wrong. */
export function recordOf(draft: Draft, before: AmplifierRecord): AmplifierRecord {
  const changed = FIELDS.filter(
    (field) => (draft[field.key] ?? "").trim() !== textOf(before[field.key]).trim(),
  ).map((field) => {
    const text = (draft[field.key] ?? "").trim();
    return [field.key, text === "" ? emptyOf(field) : valueOf(field, text)];
  });
  // What is undefined is not sent, and so takes its usual value.
  return { ...before, ...(Object.fromEntries(changed) as Partial<AmplifierRecord>) };
}

function emptyOf({ key, kind }: Field): unknown {
  if (kind === "list" || kind === "words") return [];
  if (kind === "long") return "";
  // Those have a usual value that comes back when nothing is given.
  return [
    "class",
    "channels",
    "measured_as",
    "system_v",
    "dropout_v",
    "cutout_v",
    "supply_max_v",
    "overlap_db",
    "terminal_inputs",
  ].includes(key)
    ? undefined
    : null;
}

function valueOf({ kind }: Field, text: string): unknown {
  switch (kind) {
    case "number":
    case "whole":
      return number(text);
    case "pair":
    case "triple":
    case "list":
      return text
        .split(/[\s;–×x]+/)
        .filter(Boolean)
        .map(number);
    case "words":
      return text.split(/\s+/);
    case "yesno":
      return text === "yes";
    default:
      return text;
  }
}

function number(text: string): number | string {
  const value = toNumber(text);
  return Number.isFinite(value) ? value : text;
}
