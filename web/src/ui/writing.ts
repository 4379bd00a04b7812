/** How a workshop writes numbers and dates, as its settings say. */
export interface Writing {
  decimals: "point" | "comma";
  dates: "iso" | "dmy" | "mdy";
}

let current: Writing = { decimals: "point", dates: "iso" };

/** Every number and date that is drawn from now on is written so; the frame is drawn anew when it changes. */
export function applyWriting(writing: Writing) {
  current = writing;
}

export const dates = () => current.dates;
export const decimalSign = () => (current.decimals === "comma" ? "," : ".");

/** A number's text, which has a point, with the workshop's sign. */
export function signed(text: string): string {
  return text.replace(".", decimalSign());
}

/** Sentences of the core have points: those between digits before a unit, a word of count or a bracket are numbers. */
const UNIT =
  "m?[VAW]\\b|m?Ω|VA|dB|[kKM]?Hz|m?s\\b|h\\b|mm|cm|m\\b|ft|in\\b|°|%|[²³]|times|to\\b|and\\b|[A-Z]{3}\\b|[)×·+−*/=]|$";
const IN_WORDS = new RegExp(`(?<![\\w.])(\\d+)\\.(\\d+)(?=[\\s\\u00a0]*(?:${UNIT}))`, "g");

/** A sentence of the core with its numbers as the workshop writes them. */
export function inWords(text: string): string {
  return decimalSign() === "." ? text : text.replace(IN_WORDS, "$1,$2");
}
