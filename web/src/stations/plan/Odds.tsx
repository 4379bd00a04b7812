import type { Robustness } from "../../api/client";
import { fixed } from "../../ui/format";
import { Table } from "../../ui/Table";

/** What to measure before anything is bought, where that decides between plans. */
export function MeasureFirst({ sure }: { sure: Robustness }) {
  const [best] = sure.readings;
  if (!sure.first || !best) return null;
  return (
    <p role="note" className="border-ochre mb-3 border-l-4 px-3 py-1">
      <span className="font-bold">First measure, before you buy: {best.name.toLowerCase()}</span>, {best.part}
      , {best.where}. It decides between these plans and is worth about {fixed(best.worth, 0)}.
    </p>
  );
}

/** How sure each plan is, with every input varied within its band, and which reading would settle it. */
export function Odds({ sure }: { sure: Robustness }) {
  return (
    <>
      <Table label="How sure" head={["Plan", "Meets every goal in", "Lies between", "Another is better in"]}>
        {sure.plans.map((each) => (
          <tr key={each.name}>
            <td>{each.name}</td>
            <td className="figure">{fixed(100 * each.met, 0)} of 100</td>
            <td className="figure text-teal">
              {each.low == null || each.high == null
                ? "–"
                : `${fixed(each.low, 2)} and ${fixed(each.high, 2)}`}
            </td>
            <td className="figure">{fixed(100 * each.beaten, 0)} of 100</td>
          </tr>
        ))}
      </Table>
      {sure.readings.length > 0 && (
        <ul className="mt-2 space-y-1 text-sm" aria-label="Readings that would settle it">
          {sure.readings.slice(0, 4).map((each) => (
            <li key={`${each.name} ${each.part}`}>
              {each.name}, {each.part}: read it {each.where}; knowing it is worth about {fixed(each.worth, 0)}
              .
            </li>
          ))}
        </ul>
      )}
      <p className="text-soft mt-1 text-sm">
        An estimate: {sure.draws} cars drawn within the bands of every input, to some 3 in 100. A missed goal
        is taken to cost as much as the budget.
      </p>
    </>
  );
}
