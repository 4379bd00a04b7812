import { decimalSign, signed } from "./writing";

/** A number as a person wrote it, or what is wrong with what was written. */
export type Written = { number: number } | { wrong: string };

const PLAIN = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;
/** Digits in threes: what stands between them groups them. */
const GROUPED = /^[+-]?\d{1,3}([ '’_.,\u00a0\u2009\u202f])\d{3}(\1\d{3})*/;

/**
 * "1234.5", "1 234,5", "1,234.5" and "1.234,5" are one number; the last sign of two kinds is the decimal one.
 * "1,234" may be twelve hundred or one and a bit: that is asked, not guessed, unless the workshop writes a comma.
 */
export function readNumber(text: string): Written {
  const given = text.trim().replace(/^[−–]/, "-");
  const wrong = { wrong: `“${text.trim()}” is not a number.` };
  const own = decimalSign();
  if (own === "." && PLAIN.test(given)) return finite(Number(given), wrong);
  const marks = [...given.replace(/^[+-]/, "").replace(/e[+-]?\d+$/i, "")].filter((each) => !/\d/.test(each));
  const groups = GROUPED.exec(given);
  const [mark] = marks;
  if (marks.length === 1 && (mark === "." || mark === ",")) {
    if (mark !== own && groups?.[0] === given && !/^[+-]?0/.test(given))
      return {
        wrong: `“${text.trim()}” can be read in two ways: write ${given.replace(mark, "")} or ${given.replace(mark, own)}.`,
      };
    const pointed = given.replace(mark, ".");
    return PLAIN.test(pointed) ? finite(Number(pointed), wrong) : wrong;
  }
  if (PLAIN.test(given)) return finite(Number(given), wrong);
  if (!groups) return wrong;
  const rest = given.slice(groups[0].length);
  const whole = groups[0].replaceAll(groups[1] ?? "", "");
  if (rest === "") return finite(Number(whole), wrong);
  if (!/^[.,]\d+$/.test(rest) || rest[0] === groups[1]) return wrong;
  return finite(Number(`${whole}.${rest.slice(1)}`), wrong);
}

function finite(number: number, wrong: { wrong: string }): Written {
  return Number.isFinite(number) ? { number } : wrong;
}

/** The number in a text, or none. */
export function toNumber(text: string): number {
  const written = readNumber(text);
  return "number" in written ? written.number : NaN;
}

/** All of a number, as it is edited; without what floating point adds in the seventeenth digit. */
export function full(value: number): string {
  return signed(String(Number(value.toPrecision(15))));
}
