import type { GoalResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { inUnit, plain } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { PROGRAMME_WORDS } from "../useSupplyReport";
import {
  type Goal,
  GOALS,
  type GoalQuantity,
  hasProgramme,
  hasState,
  newGoal,
  wanted,
  withWanted,
} from "./goalFields";
import { Select } from "../../ui/Select";
import { RemoveButton } from "../../ui/RemoveButton";

const ENGINES = [
  ["", "engine as in the job"],
  ["off", "engine off"],
  ["idle", "at idle"],
  ["cruise", "at cruise"],
] as const;
const PROGRAMMES = ["", "tone", "burst", "everyday", "bass_heavy", "held_bass"] as const;
const SELECT = "border-rule bg-sheet h-11 rounded-sm border px-2";

/** What the customer wants, each as a sentence with a number, and whether the car as it is meets it. */
export function GoalEditor() {
  const { job, forecast, change } = useWork();
  const goals = job.goals ?? [];
  const set = (next: Goal[]) => change("goals", next);
  const put = (i: number, goal: Goal) => set(goals.map((each, k) => (k === i ? goal : each)));
  return (
    <div>
      {goals.map((goal, i) => (
        <GoalRow
          key={i}
          goal={goal}
          recorded={job.basis.programme_file != null}
          result={forecast?.goals[i]}
          onChange={(next) => put(i, next)}
          onRemove={() => set(goals.filter((_, k) => k !== i))}
        />
      ))}
      {goals.length === 0 && <p className="text-soft mb-2 text-sm">No goal yet: say what has to hold.</p>}
      <Button wide onClick={() => set([...goals, newGoal(goals.length ? "cost" : "terminal_v")])}>
        Add a goal
      </Button>
    </div>
  );
}

interface RowProps {
  goal: Goal;
  /** Whether the job has a recording, which a goal may play too. */
  recorded: boolean;
  result: GoalResult | undefined;
  onChange: (goal: Goal) => void;
  onRemove: () => void;
}

function GoalRow({ goal, recorded, result, onChange, onRemove }: RowProps) {
  const [, words, unit] = GOALS.find(([key]) => key === goal.quantity) ?? ["", "", ""];
  return (
    <fieldset className="border-rule mb-3 border-b pb-3">
      <legend className="sr-only">{words}</legend>
      <div className="flex gap-2">
        <Select
          aria-label="Goal"
          className={`${SELECT} min-w-0 flex-1`}
          value={goal.quantity}
          onChange={(event) => onChange(newGoal(event.target.value as GoalQuantity))}
        >
          {GOALS.map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </Select>
        <RemoveButton label={`Remove the goal: ${words}`} onClick={onRemove} />
      </div>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <NumberBox
          label={goal.at_most == null ? "at least" : "at most"}
          unit={unit}
          width="w-24"
          value={wanted(goal)}
          onChange={(amount) => onChange(withWanted(goal, amount))}
        />
        {hasState(goal.quantity) && (
          <NumberBox
            label="after"
            unit="min"
            width="w-20"
            value={goal.minutes ?? 30}
            onChange={(minutes) => onChange({ ...goal, minutes })}
          />
        )}
      </div>
      {hasProgramme(goal.quantity) && (
        <div className="mt-2 flex flex-wrap gap-2">
          {hasState(goal.quantity) && (
            <Select
              aria-label="Engine of the goal"
              className={SELECT}
              value={goal.engine ?? ""}
              onChange={(event) =>
                onChange({ ...goal, engine: (event.target.value || null) as Goal["engine"] })
              }
            >
              {ENGINES.map(([key, label]) => (
                <option key={key} value={key}>
                  {label}
                </option>
              ))}
            </Select>
          )}
          <Select
            aria-label="Playing for the goal"
            className={SELECT}
            value={goal.programme ?? ""}
            onChange={(event) =>
              onChange({ ...goal, programme: (event.target.value || null) as Goal["programme"] })
            }
          >
            {[...PROGRAMMES, ...(recorded ? ["file"] : [])].map((key) => (
              <option key={key} value={key}>
                {PROGRAMME_WORDS[key] ?? "what the job plays"}
              </option>
            ))}
          </Select>
        </div>
      )}
      {result && <Met result={result} unit={unit} />}
    </fieldset>
  );
}

/** Whether a car meets a goal, in words and by its number. */
export function Met({ result, unit }: { result: GoalResult; unit: string }) {
  if (result.met === null) return <p className="text-soft mt-1 text-sm">A plan answers this.</p>;
  const value = result.value == null ? "nothing holds there" : `${inUnit(result.value, unit)} ${unit}`.trim();
  return (
    <p className={`mt-1 text-sm ${result.met ? "text-moss" : "text-ochre"}`}>
      {result.met ? "✓ met" : "▲ missed"}: <span className="figure">{value || plain(result.value ?? 0)}</span>
    </p>
  );
}
