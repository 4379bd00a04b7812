import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";

import { Problem, type PlanAnswer, type PlanOut, type PlanResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button, LINK_BUTTON } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain, whole } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { Table } from "../../ui/Table";
import { Group, Split } from "../Split";
import { Compare } from "./Compare";
import { GoalEditor } from "./GoalEditor";
import { budgetOf, withBudget } from "./goalFields";
import { Ladder } from "./Ladder";
import { Losses } from "./Losses";
import { MeasureFirst, Odds } from "./Odds";
import { PlanPicture } from "./PlanPicture";
import { QuotePanel } from "./QuotePanel";
import { isRunning, usePlan } from "./usePlan";
import { Wishes } from "./Wishes";
import { inWords } from "../../ui/writing";

/** Offered until somebody says what may be spent. */
const USUAL_BUDGET = 600;

/** What to change first, what it buys, what it costs. */
export function PlanStation() {
  const { id, version, job, change } = useWork();
  const budget = budgetOf(job) ?? USUAL_BUDGET;
  const { latest, start, cancel } = usePlan(id, version);
  const plan = latest.data;
  const running = isRunning(plan);
  return (
    <Split
      given={
        <>
          <Group title="Goals">
            <GoalEditor />
          </Group>
          <Group title="What may be spent">
            <Wishes />
            <NumberBox
              label="Budget, parts and hours"
              value={budget}
              onChange={(amount) => change("goals", withBudget(job.goals ?? [], amount))}
            />
            <div className="mt-3">
              {plan && running && !plan.cancelled ? (
                <Button wide onClick={() => cancel.mutate(plan)}>
                  Stop the search
                </Button>
              ) : (
                <Button
                  strong
                  wide
                  disabled={start.isPending}
                  onClick={() => start.mutate({ document: job, budget })}
                >
                  Find the plan
                </Button>
              )}
            </div>
            <p className="text-soft mt-1 text-xs">
              From the{" "}
              <Link
                className="-my-3.5 inline-block py-3.5 underline underline-offset-4"
                to="/parts?list=prices"
              >
                price list
              </Link>{" "}
              of the workshop: every set of steps that the budget allows. The search goes on when this page is
              left.
            </p>
          </Group>
        </>
      }
    >
      {start.error && <Complaint>{start.error.message}</Complaint>}
      {start.error instanceof Problem && start.error.field === "parts" && <ToThePriceList />}
      {latest.error && <Complaint>{latest.error.message}</Complaint>}
      {plan && running && <Searching plan={plan} />}
      {plan?.status === "refused" && (
        <>
          <Complaint>{plan.problem}</Complaint>
          <ToThePriceList />
        </>
      )}
      {plan?.status === "failed" && <Complaint>{`The search ${plan.problem}`}</Complaint>}
      {plan?.answer && !plan.current && (
        <p className="text-ochre mb-3">▲ The job has changed since: find the plan again.</p>
      )}
      {plan?.answer && <Found key={plan.id} answer={plan.answer} stopped={plan.cancelled} />}
      {!plan && !latest.isPending && (
        <p className="text-soft max-w-prose">
          Say what has to hold and what may be spent. The plan then shows what to buy first, what each step
          buys in volts and decibels, and what a popular step would not buy.
        </p>
      )}
    </Split>
  );
}

/** Most of what a search refuses is mended there: a part or an hour without a price, a pin that nothing is named after. */
function ToThePriceList() {
  return (
    <p className="mb-3">
      <Link className={LINK_BUTTON} to="/parts?list=prices">
        Enter parts and prices
      </Link>
    </p>
  );
}

/** How far a search is, with the marks so far: those of few steps come first. */
function Searching({ plan }: { plan: PlanOut }) {
  const top = useRef<HTMLDivElement>(null);
  useEffect(() => {
    void top.current?.scrollIntoView({ block: "center" });
  }, []);
  const waiting = plan.status === "waiting";
  return (
    <div ref={top}>
      <p role="status" className="mb-2">
        {waiting
          ? "Waiting for the solver …"
          : `${whole(plan.done)} of ${whole(plan.of)} sets solved; those of fewest steps first.`}
      </p>
      <progress
        aria-label="Sets solved"
        className="mb-3 w-full"
        max={plan.of || 1}
        value={waiting ? undefined : plan.done}
      />
      {plan.points && plan.points.cost.length > 0 && (
        <Group title="So far">
          <PlanPicture
            marks={plan.points}
            goals={{ db: null, volts: null, minutes: null }}
            plans={[]}
            chosen={undefined}
            onChoose={() => undefined}
          />
        </Group>
      )}
    </div>
  );
}

function Found({ answer, stopped }: { answer: PlanAnswer; stopped: boolean }) {
  const [name, setName] = useState<string | null>(null);
  const [own, setOwn] = useState<PlanResult | null>(null);
  const { as_found: asFound } = answer;
  const plans = own ? [...answer.plans, own] : answer.plans;
  const chosen =
    plans.find((each) => each.name === name) ?? plans.find((each) => each.meets_goals) ?? plans.at(-1);
  const wanted = (quantity: string) =>
    asFound.goals.find((each) => each.quantity === quantity)?.wanted ?? null;
  return (
    <>
      <Scope answer={answer} stopped={stopped} />
      <Group title="Where money stops buying">
        <PlanPicture
          marks={answer.points}
          goals={{
            db: wanted("gain_db"),
            volts: wanted("terminal_v"),
            minutes: wanted("engine_off_min"),
          }}
          plans={plans}
          chosen={chosen}
          onChoose={setName}
        />
        <p className="text-soft mt-1 text-sm">
          Each mark is a set of steps, the car as found at no cost and no gain; green ones meet every goal.
          The line goes through those that no cheaper set beats; the diamond is the knee.
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
      {answer.sure && (
        <Group title="How sure">
          <Odds sure={answer.sure} />
        </Group>
      )}
      {chosen && (
        <Group title={`In stages: ${chosen.name}`}>
          {answer.sure && <MeasureFirst sure={answer.sure} />}
          <Ladder
            plan={chosen}
            onPlan={(made) => {
              setOwn(made);
              setName(made.name);
            }}
          />
        </Group>
      )}
      {answer.reasons.length > 0 && (
        <Group title="Why">
          <ul className="space-y-1.5">
            {answer.reasons.map((each) => (
              <li key={each.words}>{inWords(each.words)}</li>
            ))}
          </ul>
        </Group>
      )}
      {answer.losses.length > 0 && (
        <Group title="Where the decibels go as found">
          <Losses losses={answer.losses} />
        </Group>
      )}
      {chosen && chosen.steps.length > 0 && (
        <>
          <Group title="Compare">
            <Compare answer={answer} chosen={chosen} />
          </Group>
          <Group title="Quote">
            <QuotePanel plan={chosen} />
          </Group>
        </>
      )}
      <p className="text-soft text-sm">
        Estimates. Makers&apos; instructions, local codes and a licensed technician come first.
      </p>
    </>
  );
}

/** How much was looked at, what was left out, and what would help where the budget allows nothing. */
function Scope({ answer, stopped }: { answer: PlanAnswer; stopped: boolean }) {
  return (
    <p className="mb-3" role="status">
      {answer.complete
        ? `Complete: all ${whole(answer.listed)} sets within ${plain(answer.budget)} were solved.`
        : `${stopped ? "Stopped" : "Not complete"}: of ${whole(answer.listed)} sets within ${plain(answer.budget)} the ${whole(answer.sets)} of fewest steps were solved: all of ${answer.every} and fewer, of more the cheapest.`}{" "}
      {answer.unpriced.length > 0 && `Left out, without a price: ${answer.unpriced.join(", ")}. `}
      {answer.least &&
        `The budget allows nothing that is bought: the least is ${answer.least.title}, ${fixed(answer.least.cost, 0)}.`}
    </p>
  );
}

function PlanRow({ plan, chosen, onChoose }: { plan: PlanResult; chosen?: boolean; onChoose?: () => void }) {
  return (
    <tr className={chosen ? "bg-sunk font-bold" : ""}>
      <td className="min-w-44 pl-2!">
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
