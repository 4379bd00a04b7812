import type { Job } from "../../api/client";
import { valueOf } from "../../api/quantity";

export type Goal = NonNullable<Job["goals"]>[number];
export type GoalQuantity = Goal["quantity"];

/** What can be wanted: words, unit, and whether more or less of it is wanted at first. */
export const GOALS: readonly (readonly [GoalQuantity, string, string, "at_least" | "at_most"])[] = [
  ["terminal_v", "Volts at the amplifier", "V", "at_least"],
  ["front_v", "Volts at the front posts", "V", "at_least"],
  ["delivered_w", "Watts delivered", "W", "at_least"],
  ["gain_db", "Gain over today", "dB", "at_least"],
  ["engine_off_min", "Minutes, engine off", "min", "at_least"],
  ["cost", "Cost", "", "at_most"],
  ["hours", "Hours of work", "h", "at_most"],
  ["weight_kg", "Weight added", "kg", "at_most"],
];
const USUAL: Record<GoalQuantity, number> = {
  terminal_v: 12.5,
  front_v: 12.5,
  delivered_w: 500,
  gain_db: 1,
  engine_off_min: 60,
  cost: 900,
  hours: 8,
  weight_kg: 30,
};

/** Whether a goal is about the car while it plays something. */
export function hasProgramme(quantity: GoalQuantity): boolean {
  return hasState(quantity) || quantity === "engine_off_min";
}

/** Whether it is also about an engine state, after so many minutes. */
export function hasState(quantity: GoalQuantity): boolean {
  return ["terminal_v", "front_v", "delivered_w"].includes(quantity);
}

/** A goal as somebody is likely to want it, held bass at idle where a state belongs to it. */
export function newGoal(quantity: GoalQuantity): Goal {
  const side = GOALS.find(([key]) => key === quantity)?.[3] ?? "at_least";
  const amount = { at_least: null, at_most: null, [side]: USUAL[quantity] };
  const state = hasState(quantity) ? ({ engine: "idle" } as const) : {};
  const playing = hasProgramme(quantity) ? ({ programme: "held_bass" } as const) : {};
  return { quantity, ...amount, ...state, ...playing, minutes: 30 };
}

/** What may be spent: the cost goal's number, or the budget of an older job file. */
export function budgetOf(job: Job): number | null {
  const goal = job.goals?.find((each) => each.quantity === "cost");
  return goal ? (goal.at_most ?? null) : valueOf(job.targets?.budget);
}

/** The goals with another budget: a cost goal, a new one where there is none. */
export function withBudget(goals: Goal[], budget: number): Goal[] {
  const cost = { ...newGoal("cost"), at_most: budget };
  if (!goals.some((each) => each.quantity === "cost")) return [...goals, cost];
  return goals.map((each) => (each.quantity === "cost" ? cost : each));
}

/** The goals once a job has no recording: those that played it play what the job does. */
export function withoutRecording(goals: Goal[]): Goal[] {
  return goals.map((each) => (each.programme === "file" ? { ...each, programme: null } : each));
}

/** The number that a goal asks for, on whichever side. */
export function wanted(goal: Goal): number {
  return goal.at_least ?? goal.at_most ?? 0;
}

/** The goal with another number, on the side it has. */
export function withWanted(goal: Goal, amount: number): Goal {
  return goal.at_most == null ? { ...goal, at_least: amount } : { ...goal, at_most: amount };
}
