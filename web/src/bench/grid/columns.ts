/** One row of the grid: text by column of the bench sheet, as it was typed. */
export type Cells = Record<string, string>;

export interface Column {
  key: string;
  words: string;
  unit?: string;
  /** Width in characters. */
  width: number;
  choices?: readonly (readonly [string, string])[];
}

const CHOICES = {
  load_kind: [
    ["resistive", "resistor"],
    ["reactive", "driver"],
  ],
  criterion: [
    ["thd1", "1 % THD"],
    ["clip", "clipping"],
    ["burst", "burst"],
    ["unstated", "unstated"],
  ],
  yesNo: [
    ["", "no"],
    ["yes", "yes"],
  ],
} as const;

const FIRST: Column[] = [
  { key: "load_ohm", words: "Load", unit: "Ω", width: 5 },
  { key: "load_kind", words: "Kind", width: 10, choices: CHOICES.load_kind },
  { key: "criterion", words: "Criterion", width: 10, choices: CHOICES.criterion },
  { key: "tone_hz", words: "Tone", unit: "Hz", width: 5 },
  { key: "supply_before_v", words: "Before", unit: "V", width: 6 },
  { key: "supply_v", words: "Under load", unit: "V", width: 6 },
  { key: "supply_a", words: "Drawn", unit: "A", width: 6 },
];

/** The three ways to give an output. */
export const OUTPUTS = {
  watts: { words: "true power", columns: ["power_w"] },
  parts: { words: "volts, amps, power factor", columns: ["output_v", "output_a", "power_factor"] },
  volts: { words: "volts alone", columns: ["output_v"] },
} as const;
export type OutputWay = keyof typeof OUTPUTS;

const OUTPUT_COLUMNS: Record<string, Column> = {
  power_w: { key: "power_w", words: "Output", unit: "W", width: 7 },
  output_v: { key: "output_v", words: "Output", unit: "V", width: 6 },
  output_a: { key: "output_a", words: "Output", unit: "A", width: 6 },
  power_factor: { key: "power_factor", words: "Power factor", width: 6 },
};

const REST: Column[] = [
  { key: "impedance_ohm", words: "|Z| read", unit: "Ω", width: 6 },
  { key: "level_db", words: "Level", unit: "dB", width: 5 },
  { key: "heatsink_c", words: "Heat sink", unit: "°C", width: 5 },
  { key: "protect", words: "Protection", width: 5, choices: CHOICES.yesNo },
  { key: "four_wire", words: "Four-wire", width: 5, choices: CHOICES.yesNo },
  { key: "meter", words: "Meter", width: 10 },
  { key: "meter_range", words: "Its range", width: 6 },
  { key: "date", words: "Date", width: 11 },
  { key: "note", words: "Note", width: 16 },
];

/** The columns in view. */
export function columnsOf(way: OutputWay, all: boolean): Column[] {
  const outputs = OUTPUTS[way].columns.map((key) => OUTPUT_COLUMNS[key] as Column);
  return [...FIRST, ...outputs, ...(all ? REST : [])];
}

/** How the rows give their output, to open the grid that way. */
export function wayOf(rows: readonly Cells[]): OutputWay {
  if (rows.some((row) => row.power_w)) return "watts";
  if (rows.some((row) => row.output_a)) return "parts";
  return rows.some((row) => row.output_v) ? "volts" : "watts";
}
