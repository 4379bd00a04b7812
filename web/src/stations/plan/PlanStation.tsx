import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";

import { api, data, type PlanAnswer, type PlanResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { Table } from "../../ui/Table";
import { Group, Split } from "../Split";
import { GoalEditor } from "./GoalEditor";
import { budgetOf, withBudget } from "./goalFields";
import { Ladder } from "./Ladder";
import { PlanPicture } from "./PlanPicture";

const SETS = 400;
/** Offered until somebody says what may be spent. */
const USUAL_BUDGET = 600;

/** What to change first, what it buys, what it costs. */
export function PlanStation() {
  const { job, change } = useWork();
  const budget = budgetOf(job) ?? USUAL_BUDGET;
  const [asked, setAsked] = useState<string | null>(null);
  const abort = useRef<AbortController | null>(null);
  const search = useMutation({
    mutationFn: async () => {
      abort.current = new AbortController();
      setAsked(JSON.stringify([job, budget]));
      const { signal } = abort.current;
      return data(await api.POST("/api/v1/plans", { body: { document: job, budget, sets: SETS }, signal }));
    },
  });
  const cancelled = search.error?.name === "AbortError";
  const stale = search.data && asked !== JSON.stringify([job, budget]);
  return (
    <Split
      given={
        <>
          <Group title="Goals">
            <GoalEditor />
          </Group>
          <Group title="What may be spent">
            <NumberBox
              label="Budget, parts and hours"
              value={budget}
              onChange={(amount) => change("goals", withBudget(job.goals ?? [], amount))}
            />
            <div className="mt-3">
              {search.isPending ? (
                <Button wide onClick={() => abort.current?.abort()}>
                  Cancel
                </Button>
              ) : (
                <Button strong wide onClick={() => search.mutate()}>
                  Find the plan
                </Button>
              )}
            </div>
            <p className="text-soft mt-1 text-xs">
              From the <Link to="/parts?list=prices">price list</Link> of the workshop: up to {SETS} sets of
              steps that the budget allows, those of fewest steps first, each by its own forecast.
            </p>
          </Group>
        </>
      }
    >
      {search.isPending && <p role="status">Solving up to {SETS} sets of steps, some ten seconds …</p>}
      {search.error && !cancelled && <Complaint>{search.error.message}</Complaint>}
      {cancelled && <p className="text-soft">Cancelled.</p>}
      {stale && (
        <p className="text-ochre mb-3">▲ The job or the budget has changed since: find the plan again.</p>
      )}
      {search.data && <Found answer={search.data} />}
      {!search.data && !search.isPending && (
        <p className="text-soft max-w-prose">
          Say what has to hold and what may be spent. The plan then shows what to buy first, what each step
          buys in volts and decibels, and what a popular step would not buy.
        </p>
      )}
    </Split>
  );
}

function Found({ answer }: { answer: PlanAnswer }) {
  const [name, setName] = useState<string | null>(null);
  const { plans, as_found: asFound } = answer;
  const chosen =
    plans.find((each) => each.name === name) ?? plans.find((each) => each.meets_goals) ?? plans.at(-1);
  const goal = asFound.goals.find((each) => each.quantity === "terminal_v");
  const goalV = goal?.wanted ?? null;
  return (
    <>
      <p className="mb-3" role="status">
        {answer.complete
          ? `Complete: all ${answer.listed} sets within ${plain(answer.budget)} were solved.`
          : `Stopped: of ${answer.listed} sets within ${plain(answer.budget)} the ${answer.sets} of fewest steps were solved: all of ${answer.every} and fewer, of more the cheapest.`}{" "}
        {answer.unpriced.length > 0 && `Left out, without a price: ${answer.unpriced.join(", ")}.`}
      </p>
      <Group title="Where money buys volts">
        <PlanPicture points={answer.points} goalV={goalV} chosen={chosen} />
        <p className="text-soft mt-1 text-sm">
          Each mark is a set of steps; green ones meet every goal. The line goes through those that no cheaper
          set beats in volts missed and decibels.
        </p>
      </Group>
      <Group title="Plans">
        <Table label="Plans" head={["Plan", "Cost", "Hours", "At the amplifier", "Gain", "Goals"]}>
          <PlanRow plan={asFound} />
          {plans.map((each) => (
            <PlanRow
              key={each.name}
              plan={each}
              chosen={each === chosen}
              onChoose={() => setName(each.name)}
            />
          ))}
        </Table>
      </Group>
      {chosen && (
        <Group title={`In stages: ${chosen.name}`}>
          <Ladder plan={chosen} />
        </Group>
      )}
      {answer.reasons.length > 0 && (
        <Group title="Why">
          <ul className="space-y-1.5">
            {answer.reasons.map((each) => (
              <li key={each.words}>{each.words}</li>
            ))}
          </ul>
        </Group>
      )}
      <p className="text-soft text-sm">
        Estimates: no band of a plan is worked out yet. Makers&apos; instructions, local codes and a licensed
        technician come first.
      </p>
    </>
  );
}

function PlanRow({ plan, chosen, onChoose }: { plan: PlanResult; chosen?: boolean; onChoose?: () => void }) {
  return (
    <tr className={chosen ? "bg-sunk font-bold" : ""}>
      <td className="pl-2!">
        {onChoose ? (
          <button
            type="button"
            aria-pressed={chosen}
            className="min-h-11 text-left underline-offset-4 hover:underline"
            onClick={onChoose}
          >
            {plan.name}
          </button>
        ) : (
          plan.name
        )}
        <span className="text-soft block text-sm font-normal">{plan.steps.join("; ")}</span>
      </td>
      <td className="figure">{fixed(plan.cost, 0)}</td>
      <td className="figure">{fixed(plan.hours, 1)}</td>
      <td className="figure text-teal">{plan.terminal_v == null ? "–" : `${fixed(plan.terminal_v, 2)} V`}</td>
      <td className="figure">{plan.gain_db == null ? "–" : `${fixed(plan.gain_db, 1)} dB`}</td>
      <td className={`whitespace-nowrap ${plan.meets_goals ? "text-moss" : "text-ochre"}`}>
        {plan.goals.length === 0 ? "–" : plan.meets_goals ? "✓ met" : "▲ missed"}
      </td>
    </tr>
  );
}
