import type { Job } from "../../api/client";
import { fixed } from "../../ui/format";

/** A time as one would say it; what is never reached within three days is said so. */
export function howLong(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "more than three days";
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 120) return `${minutes} min`;
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** Where a battery of the vehicle's system is low: 12.0 V for each 12 V. */
export function lowV(job: Job): string {
  return fixed(job.vehicle.system_v ?? 12, 1);
}
