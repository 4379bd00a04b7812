import type { JobLine } from "../api/client";

export type JobState = NonNullable<JobLine["summary"]>["state"];

/** How far the work on the car is, in words. */
export const STATE_WORDS: Record<JobState, string> = {
  found: "as found",
  planned: "planned",
  fitted: "fitted",
  proved: "proved",
};
export const STATES = Object.entries(STATE_WORDS) as [JobState, string][];
