import { dates } from "./writing";

/** A moment as the workshop writes it: day and time of this machine's own zone. */
export function moment(iso: string): string {
  return `${day(iso)} ${clock(new Date(iso).getTime())}`;
}

/** A day as the workshop writes it. */
export function day(iso: string): string {
  const [year, month, date] = parts(new Date(iso));
  switch (dates()) {
    case "iso":
      return `${year}-${month}-${date}`;
    case "dmy":
      return `${date}.${month}.${year}`;
    case "mdy":
      return `${month}/${date}/${year}`;
  }
}

/** The day on this machine's calendar, as files have it: late in the evening it is not yet the next one. */
export function today(): string {
  return parts(new Date()).join("-");
}

/** The time of the day. */
export function clock(ms: number): string {
  const at = new Date(ms);
  return `${two(at.getHours())}:${two(at.getMinutes())}`;
}

function parts(at: Date): [string, string, string] {
  return [String(at.getFullYear()), two(at.getMonth() + 1), two(at.getDate())];
}

const two = (number: number) => String(number).padStart(2, "0");
