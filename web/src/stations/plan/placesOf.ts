import type { Job } from "../../api/client";

/** The places of a job that a plan can change, in the words that it keeps them by. */
export function placesOf(job: Job): string[] {
  const leads = job.amplifiers.filter((each) => each.lead).map((each) => `Lead to ${each.name}`);
  const ways = [...job.cables.map((each) => each.name), ...leads];
  const names = [
    ...job.chargers.map((each) => each.name),
    ...job.banks.map((each) => each.name),
    "Second battery",
    ...job.capacitors.map((each) => each.name),
    "Capacitors",
    ...ways,
    ...ways.map((each) => `Ground return of ${each}`),
    ...job.amplifiers.flatMap(({ name }) => [
      name,
      `Drivers of ${name}`,
      `Box of ${name}`,
      `Coils of ${name}`,
    ]),
    "Gain",
  ];
  return [...new Set(names.map((each) => each ?? ""))].filter(Boolean);
}
