import type { SupplyReport } from "../../api/client";
import { PROGRAMME_WORDS } from "../useSupplyReport";
import { howLong } from "./howLong";

/** Half a minute to three days on one scale: what matters is ten minutes or an hour, not a day or two. */
const [SHORTEST, LONGEST] = [0.5, 3 * 24 * 60];
const MARKS: readonly (readonly [number, string])[] = [
  [1, "1 min"],
  [10, "10 min"],
  [60, "1 h"],
  [600, "10 h"],
];

/** Where some minutes stand on the scale, from 0 to 1. */
export function along(minutes: number): number {
  const share = Math.log(minutes / SHORTEST) / Math.log(LONGEST / SHORTEST);
  return Math.max(0, Math.min(1, share));
}

/** Where the minutes go with the engine off: how long the batteries alone play until one of them is at 12.0 V. */
export function EngineOffTime({ rows }: { rows: SupplyReport["engine_off"] }) {
  if (rows.length === 0) return null;
  return (
    <table aria-label="Engine off" className="w-full">
      <tbody>
        {rows.map(({ programme, minutes, longer }) => (
          <tr key={programme} className="border-rule border-b">
            <th scope="row" className="w-40 py-1.5 text-left font-normal max-sm:w-28">
              {PROGRAMME_WORDS[programme]}
            </th>
            <td aria-hidden>
              <div className="bg-sunk relative h-5">
                <div
                  className="h-5"
                  style={{ width: `${100 * along(minutes ?? 0)}%`, background: "var(--copper-pale)" }}
                />
                {MARKS.map(([at, words]) => (
                  <span
                    key={words}
                    className="border-ink absolute top-0 h-5 border-l pl-1 text-xs leading-5"
                    style={{ left: `${100 * along(at)}%` }}
                  >
                    {words}
                  </span>
                ))}
              </div>
            </td>
            <td className="figure w-36 pl-3 text-right whitespace-nowrap">
              {minutes === null ? "does not hold" : howLong(longer ? null : 60 * minutes)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
