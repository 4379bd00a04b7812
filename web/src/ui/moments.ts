import { dates } from "./writing";

/** A moment as the workshop writes it: day and time of this machine's own zone. */
export function moment(iso: string): string {
  return `${day(iso)} ${clock(new Date(iso).getTime())}`;
}

/** A day as the workshop writes it. */
export function day(iso: string): string {
  const at = new Date(iso);
  const [year, month, date] = [at.getFullYear(), two(at.getMonth() + 1), two(at.getDate())];
  switch (dates()) {
    case "iso":
      return `${year}-${month}-${date}`;
    case "dmy":
      return `${date}.${month}.${year}`;
    case "mdy":
      return `${month}/${date}/${year}`;
  }
}

/** The time of the day. */
export function clock(ms: number): string {
  const at = new Date(ms);
  return `${two(at.getHours())}:${two(at.getMinutes())}`;
}

const two = (number: number) => String(number).padStart(2, "0");
