import { useState } from "react";

import type { PlanMarks, PlanResult } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { fixed, plain } from "../../ui/format";
import { picture, SIZE, type Up } from "./planGeometry";

const UPS = [
  ["db", "Decibels"],
  ["volts", "Volts"],
  ["minutes", "Minutes"],
] as const;
const UNITS = { db: "dB", volts: "V", minutes: "min" };
const WORDS = {
  db: "decibels gained",
  volts: "volts at the amplifier",
  minutes: "minutes with the engine off",
};

interface Props {
  marks: PlanMarks;
  goals: Record<Up, number | null>;
  plans: PlanResult[];
  chosen: PlanResult | undefined;
  onChoose: (name: string) => void;
}

/** Cost against what it buys: every solved set a faint mark, the best drawn through, plans on it to choose. */
export function PlanPicture({ marks, goals, plans, chosen, onChoose }: Props) {
  const [up, setUp] = useState<Up>("db");
  const goal = goals[up];
  const ups = UPS.filter(([key]) => key !== "minutes" || goals.minutes !== null);
  const drawn = picture(marks, up, goal);
  const unit = UNITS[up];
  const { width, height, left, right, bottom } = SIZE;
  return (
    <>
      <div className="mb-2">
        <Choice label="Upwards" value={up} options={ups} onChange={setUp} />
      </div>
      <svg
        role="group"
        aria-label={`${marks.cost.length} sets by cost and ${WORDS[up]}`}
        viewBox={`0 0 ${width} ${height}`}
        className="bg-sheet border-rule w-full border"
      >
        {drawn.rungs.map((each) => (
          <g key={each.value}>
            <line x1={left} x2={width - right} y1={each.y} y2={each.y} stroke="var(--rule)" />
            <text x={left - 14} y={each.y + 4} textAnchor="end" fontSize="12" fill="var(--soft)">
              {plain(each.value)}
            </text>
          </g>
        ))}
        {drawn.costs.map((each) => (
          <text
            key={each.cost}
            x={each.x}
            y={height - bottom + 17}
            textAnchor="middle"
            fontSize="12"
            fill="var(--soft)"
          >
            {plain(each.cost)}
          </text>
        ))}
        <text x={width - right} y={height - 5} textAnchor="end" fontSize="12" fill="var(--soft)">
          cost of parts and hours
        </text>
        <text x={6} y={12} fontSize="12" fill="var(--soft)">
          {unit}
        </text>
        {drawn.zeroY !== null && (
          <line x1={left} x2={width - right} y1={drawn.zeroY} y2={drawn.zeroY} stroke="var(--soft)" />
        )}
        {drawn.marks.map(({ x, y, meets }, i) => (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={2}
            fill={meets ? "var(--moss)" : "var(--car-band)"}
            opacity={0.5}
          />
        ))}
        {drawn.goalY !== null && (
          <>
            <line
              x1={left}
              x2={width - right}
              y1={drawn.goalY}
              y2={drawn.goalY}
              stroke="var(--teal)"
              strokeWidth={1.5}
              strokeDasharray="6 4"
            />
            <text x={left + 4} y={drawn.goalY - 4} fontSize="12" fill="var(--teal)">
              the goal, {plain(goal ?? 0)} {unit}
            </text>
          </>
        )}
        <polyline points={drawn.line} fill="none" stroke="var(--copper)" strokeWidth={1.5} />
        {plans.map((plan) => {
          const at = drawn.place(plan);
          return (
            at && (
              <PlanMarkButton key={plan.name} at={at} plan={plan} on={plan === chosen} onChoose={onChoose} />
            )
          );
        })}
      </svg>
    </>
  );
}

interface MarkProps {
  at: { x: number; y: number };
  plan: PlanResult;
  on: boolean;
  onChoose: (name: string) => void;
}

/** A plan on the picture: a diamond where it is the knee, a ring where it is chosen. */
function PlanMarkButton({ at, plan, on, onChoose }: MarkProps) {
  const knee = plan.name.includes("knee");
  const choose = () => onChoose(plan.name);
  const told = [
    plan.gain_db == null ? "" : `${fixed(plan.gain_db, 1)} dB`,
    plan.terminal_v == null ? "" : `${fixed(plan.terminal_v, 2)} V`,
  ];
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={on}
      aria-label={`${plan.name}: ${fixed(plan.cost, 0)}, ${told.filter(Boolean).join(", ")}`}
      className="cursor-pointer"
      transform={`translate(${at.x} ${at.y})`}
      onClick={choose}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        choose();
      }}
    >
      <circle r={16} fill="transparent" />
      {knee ? (
        <path d="M0-7L7 0L0 7L-7 0Z" fill="var(--copper)" />
      ) : (
        <circle r={5.5} fill={plan.meets_goals ? "var(--moss)" : "var(--copper)"} />
      )}
      {on && <circle r={10} fill="none" stroke="var(--ink)" strokeWidth={2} />}
    </g>
  );
}
