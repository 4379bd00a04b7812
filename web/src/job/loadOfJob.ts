import { api, data, type Job } from "../api/client";
import { valueOf } from "../api/quantity";

/** The load of a job's amplifier as it stands there with a tone: ohms, what the box makes of them, volts, filters. */
export interface LoadOfJob {
  load_ohm: number;
  rise: number;
  power_factor: number;
  supply_v: number;
  bridged: boolean;
  high_pass_hz: number | null;
  low_pass_hz: number | null;
  overlap_db: number;
}

const USUAL_OVERLAP_DB = 5;

/** Where it stands among many: the job's number and the amplifier's id in it, as one word. */
export function placeOf(jobId: number, amplifierId: string): string {
  return `job:${jobId}:${amplifierId}`;
}

/** Asks for the job and its forecast with a tone; null where its amplifier does not answer. */
export async function loadOfJob(place: string): Promise<LoadOfJob | null> {
  const [, jobId, amplifierId] = place.split(":");
  const stored = data(
    await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: Number(jobId) } } }),
  );
  const job = stored.document as Job;
  const tone = { ...job, basis: { ...job.basis, programme: "tone" as const } };
  const forecast = data(await api.POST("/api/v1/forecasts", { body: { document: tone } }));
  const report = forecast.amplifiers.find((each) => each.id === amplifierId);
  const amplifier = (job.amplifiers ?? []).find((each) => each.id === amplifierId);
  if (!report || !amplifier) return null;
  return {
    load_ohm: report.nominal_ohm,
    rise: report.impedance_ohm / report.nominal_ohm,
    power_factor: report.power_factor,
    supply_v: report.terminal_v,
    bridged: amplifier.connection === "bridged",
    high_pass_hz: valueOf(amplifier.load?.high_pass_hz),
    low_pass_hz: valueOf(amplifier.load?.low_pass_hz),
    overlap_db: valueOf(amplifier.overlap_db) ?? USUAL_OVERLAP_DB,
  };
}
