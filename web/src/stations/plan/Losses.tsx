import type { LossOnTheWay } from "../../api/client";
import { fixed } from "../../ui/format";

/** Where the decibels go from the bench to the cone, one bar each, and beside it the cheapest cure by itself. */
export function Losses({ losses }: { losses: LossOnTheWay[] }) {
  const most = Math.max(...losses.map((each) => Math.abs(each.db)), 0.1);
  const sum = losses.reduce((total, each) => total + each.db, 0);
  return (
    <>
      <ol aria-label="Losses on the way" className="space-y-2">
        {losses.map((each) => (
          <li key={each.name} className="grid gap-x-4 sm:grid-cols-[11rem_minmax(0,1fr)_minmax(0,1.3fr)]">
            <span>{each.name}</span>
            <span className="flex items-center gap-2">
              <span
                aria-hidden
                className="h-4"
                style={{
                  width: `${(100 * Math.abs(each.db)) / most / 1.6}%`,
                  background: each.db < 0 ? "var(--heat-band)" : "var(--copper-band)",
                }}
              />
              <span className="figure">{fixed(each.db, 1)} dB</span>
            </span>
            <span className="text-soft text-sm">
              {each.cure
                ? `${each.cure.title}: ${fixed(each.cure.per_db, 0)} a decibel, buys ${fixed(each.cure.gain_db, 1)} dB alone`
                : each.why}
            </span>
          </li>
        ))}
      </ol>
      <p className="text-soft mt-2 text-sm">
        Together <span className="figure">{fixed(sum, 1)} dB</span>: the losses add up, the cures do not. Each
        says what it buys alone.
      </p>
    </>
  );
}
