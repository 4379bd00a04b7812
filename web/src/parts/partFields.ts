import type { PartOut } from "../api/client";
import { CONDUCTORS } from "../stations/cable/words";
import { CHEMISTRIES } from "../stations/supply/kinds";
import { full, readNumber } from "../ui/number";

export type Part = PartOut["part"];
export type PartKind = Part["kind"];
type Choices = readonly (readonly [string, string])[];

export interface PartField {
  key: Exclude<keyof Part, "needs" | "excludes" | "always_on">;
  words: string;
  unit?: string;
  needed?: boolean;
  /** How many shown units make one of the part's: 1000 shows milliohms. */
  per?: number;
  choices?: Choices;
  /** Words, not a number. */
  text?: boolean;
}

const MILLIOHMS = { unit: "mΩ", per: 1000 } as const;
const SIZE: PartField = { key: "size", words: "Size, such as 4 AWG or 35 mm²", text: true, needed: true };
const CONDUCTOR: PartField = { key: "conductor", words: "Conductor", choices: CONDUCTORS };
const ISOLATOR: PartField = {
  key: "isolator",
  words: "Isolator",
  choices: [
    ["relay", "relay"],
    ["diode", "diode"],
  ],
};

/** What is asked of each kind beside its name, price and hours; everything else comes with a list in CSV. */
const OWN: Record<PartKind, readonly PartField[]> = {
  charger: [
    { key: "rated_a", words: "Rated output", unit: "A", needed: true },
    { key: "idle_a", words: "Output at idle", unit: "A" },
    { key: "setpoint_v", words: "Regulated to", unit: "V" },
  ],
  bank: [
    { key: "capacity_ah", words: "Capacity", unit: "Ah", needed: true },
    { key: "chemistry", words: "Chemistry", choices: CHEMISTRIES },
    { key: "resistance_ohm", words: "Internal resistance", ...MILLIOHMS },
    ISOLATOR,
  ],
  capacitor: [
    { key: "farad", words: "Capacitance", unit: "F", needed: true },
    { key: "esr_ohm", words: "Internal resistance", ...MILLIOHMS },
  ],
  cable: [SIZE, CONDUCTOR],
  fuse: [{ key: "amps", words: "Rating", unit: "A", needed: true }],
  return: [{ ...SIZE, words: "Size of its cable" }, CONDUCTOR],
  strap: [SIZE, CONDUCTOR],
  isolator: [ISOLATOR],
  driver: [{ key: "driver", words: "Driver, as the list names it", text: true, needed: true }],
  box: [
    {
      key: "box_kind",
      words: "Kind of box",
      needed: true,
      choices: [
        ["sealed", "sealed"],
        ["vented", "vented"],
        ["infinite_baffle", "open to the boot (infinite baffle)"],
      ],
    },
    { key: "volume_l", words: "Volume", unit: "l" },
    { key: "tuning_hz", words: "Tuned to", unit: "Hz" },
  ],
  amplifier: [{ key: "amplifier", words: "Amplifier, as the bench names it", text: true, needed: true }],
  labour: [],
};
const PER: Partial<Record<PartKind, string>> = {
  cable: "of a metre",
  strap: "of a metre",
  labour: "of an hour",
};

/** The fields of a kind in the order in which they are asked. */
export function fieldsOf(kind: PartKind): readonly PartField[] {
  return [
    { key: "name", words: "Name", text: true, needed: true },
    { key: "price", words: ["Price", PER[kind]].filter(Boolean).join(" ") },
    { key: "hours", words: "To fit it", unit: "h" },
    ...OWN[kind],
  ];
}

export type Draft = Partial<Record<string, string>> & { kind: PartKind };

/** A part as text, for the fields that its kind has. */
export function draftOf(part: Part | undefined): Draft {
  if (!part) return { kind: "charger" };
  const texts = fieldsOf(part.kind).map(({ key, per = 1 }): [string, string] => {
    const value = part[key];
    return [key, typeof value === "number" ? full(value * per) : (value ?? "")];
  });
  return { ...Object.fromEntries(texts), kind: part.kind };
}

/** The text read back over what the part had; what is no number goes as it is, so that the server names it. */
export function partOf(draft: Draft, before?: Part): Part {
  const typed = fieldsOf(draft.kind).flatMap(({ key, per = 1, text, choices }): [string, unknown][] => {
    const words = (draft[key] ?? "").trim();
    if (words === "") return key === "hours" ? [] : [[key, null]];
    if (text || choices) return [[key, words]];
    const written = readNumber(words);
    return [[key, "number" in written ? written.number / per : words]];
  });
  const kept = before?.kind === draft.kind ? before : {};
  return { ...kept, ...Object.fromEntries(typed), kind: draft.kind } as Part;
}
