import { describe, expect, it } from "vitest";

import type { Job } from "../../api/client";
import { publishedChoices } from "../../test/published";
import { budgetOf, GOALS, newGoal, wanted, withBudget, withoutRecording, withWanted } from "./goalFields";

describe("a goal", () => {
  it("may be of every quantity that a job can want, each in words of its own", () => {
    expect(GOALS.map(([quantity]) => quantity).sort()).toEqual(publishedChoices("Goal", "quantity").sort());
    expect(new Set(GOALS.map(([, words]) => words)).size).toBe(GOALS.length);
  });

  it("asks for one number, on the side that its kind is wanted on", () => {
    for (const [quantity, , , side] of GOALS) {
      const goal = newGoal(quantity);
      expect(goal[side]).toBe(wanted(goal));
      expect(goal[side === "at_least" ? "at_most" : "at_least"]).toBeNull();
      expect(withWanted(goal, 7)[side]).toBe(7);
      expect(wanted(withWanted(goal, 7))).toBe(7);
    }
  });

  it("names the state of the car where one belongs to it", () => {
    expect(newGoal("terminal_v")).toMatchObject({ engine: "idle", programme: "held_bass", minutes: 30 });
    expect(newGoal("cost")).not.toHaveProperty("engine");
    expect(newGoal("engine_off_min")).toMatchObject({ programme: "held_bass" });
    expect(newGoal("engine_off_min")).not.toHaveProperty("engine");
  });

  it("of cost is the budget, whichever way it was stated", () => {
    const volts = newGoal("terminal_v");
    const job = { goals: [volts], targets: { budget: 300 } } as Job;
    expect(budgetOf(job)).toBe(300);
    expect(budgetOf({ ...job, goals: withBudget([volts], 450) })).toBe(450);
    expect(withBudget(withBudget([volts], 450), 500)).toEqual([volts, { ...newGoal("cost"), at_most: 500 }]);
  });

  it("that played a recording plays what the job does once that is gone", () => {
    const [played, kept] = withoutRecording([{ ...newGoal("front_v"), programme: "file" }, newGoal("cost")]);
    expect([played?.programme, kept]).toEqual([null, newGoal("cost")]);
  });
});
