import { gzipSync } from "fflate";
import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

type Schemas = components["schemas"];
/** The server always sends the whole document; what may be left out of a file is filled in. */
export type Job = Required<Schemas["JobDocument"]>;
export type JobLine = Schemas["JobLine"];
export type JobOut = Schemas["JobOut"];
export type Forecast = Schemas["ForecastResult"];
export type FigureData = Schemas["FigureData"];
export type AmplifierResult = Schemas["AmplifierResult"];
export type CableResult = Schemas["CableResult"];
export type EngineResult = Schemas["EngineResult"];
export type Curve = Schemas["Curve"];
export type AmplifierLine = Schemas["AmplifierLine"];
export type DriverLine = Schemas["DriverLine"];
export type AmplifierOut = Schemas["AmplifierOut"];
export type AmplifierRecord = Schemas["AmplifierRecord"];
export type Finding = Schemas["Finding"];
export type Claim = Schemas["Claim"];
export type ClaimCheck = Schemas["ClaimCheck"];
export type Compared = Schemas["Compared"];
export type BankAtWork = Schemas["AtWork"];
export type SetUpSheet = Schemas["GainSettingSheet"];
export type DraftRow = Schemas["DraftRow"];
export type SimulationResult = Schemas["SimulationResult"];
export type SupplyReport = Schemas["SupplyReport"];
export type AmplifierStrip = Schemas["AmplifierStrip"];
export type GoalResult = Schemas["GoalResult"];
export type PartOut = Schemas["PartOut"];
export type PlanAnswer = Schemas["PlanAnswer"];
export type PlanMarks = Schemas["Marks"];
export type PlanOut = Schemas["PlanOut"];
export type Robustness = Schemas["Robustness"];
export type LossOnTheWay = Schemas["LossOnTheWay"];
export type Comparison = Schemas["Comparison"];
export type Quote = Schemas["Quote"];
export type Swap = Schemas["Swap"];
export type PlanResult = Schemas["PlanResult"];
export type StageResult = Schemas["StageResult"];
export type RecordingOut = Schemas["RecordingOut"];
export type Asked = Schemas["Asked"];
export type Reading = Schemas["Reading"];
export type ReadingOut = Schemas["ReadingOut"];
export type CardItem = Schemas["CardItem"];
export type ProofOut = Schemas["ProofOut"];
export type ReadingResult = Schemas["ReadingResult"];
export type CorrectedParameter = Schemas["CorrectedParameter"];
export type HistorySeries = Schemas["HistorySeries"];
export type SweepResult = Schemas["SweepResult"];
export type HeatOut = Schemas["HeatOut"];
export type ImpedanceOut = Schemas["ImpedanceOut"];
export type BenchOut = Schemas["BenchOut"];
export type BenchReadout = Schemas["BenchReadout"];
export type Fault = Schemas["FaultOut"]["key"];
export type Driver = Schemas["Driver"];
export type DriverOut = Schemas["DriverOut"];
export type LoadOption = Schemas["Option"];
export type LoadResult = Schemas["LoadResult"];
export type LoadReading = Schemas["LoadReading"];
export type Amplifier = Schemas["Amplifier"];
export type Cable = Schemas["Cable"];
export type CablePlan = Schemas["CablePlan"];
export type SizesWanted = Schemas["SizesWanted"];
export type BasisChoices = Schemas["BasisChoices"];
export type SizeChoice = Schemas["SizeChoice"];
export type SpeakerLead = Schemas["SpeakerLead"];
export type OwnFuses = Schemas["OwnFuses"];
export type Schedule = Schemas["Schedule"];
export type ScheduleRow = Schemas["CutRow"];
export type GaugeCheck = Schemas["GaugeCheck"];
export type DropTested = Schemas["DropTestResult"];
/** The server always sends the whole document. */
export type WorkshopSettings = Required<Schemas["WorkshopSettings"]>;
export type StockLine = Schemas["StockLine"];
export type Session = Schemas["Session"];
export type Role = Schemas["Role"];
export type Person = Schemas["PersonOut"];
export type Archive = Schemas["ArchiveOut"];
export type Found = Schemas["FoundOut"];
export type JobMove = Schemas["JobMove"];
export type Origin = "measured" | "typed" | "assumed";
export type Quantity = number | { value: number; origin: Origin };
export type Engine = "off" | "idle" | "cruise";

/** What the server says when it refuses: one sentence, and the field it is about. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly field: string,
    readonly version: number | null,
    /** What is wrong with the field, without its name: to be said at the field. */
    readonly reason: string = message,
  ) {
    super(message);
  }
}

/** Whether the server said no to what it was given: not that it failed, could not be reached, or wants a log-in. */
export function isRefusal(error: unknown): error is Problem {
  return error instanceof Problem && error.status < 500 && error.status !== 401;
}

/** The token that proves a change comes from this page. */
export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

/** What the window is told when the server asks for a log-in, and when somebody has logged in over the page. */
export const SIGNED_OUT = "under-hood-signed-out";
export const SIGNED_IN = "under-hood-signed-in";

/** From so many bytes on a body is worth packing. */
const WORTH_PACKING = 4000;

/** More than the browser takes in a request that outlives its page. */
const MOST_KEPT_ALIVE = 60_000;

/** A request with its JSON packed, of a job to a seventh; at once, for a page that draws would hold up what waits. */
class Packed extends Request {
  constructor(address: RequestInfo | URL, { body, keepalive, ...init }: RequestInit = {}) {
    const long = typeof body === "string" && body.length >= WORTH_PACKING;
    const sent = long ? gzipSync(new TextEncoder().encode(body)) : body;
    const little = sent instanceof Uint8Array ? sent.length < MOST_KEPT_ALIVE : typeof sent === "string";
    super(address, { ...init, body: sent, keepalive: keepalive && little });
    if (long) this.headers.set("Content-Encoding", "gzip");
  }
}

export const api = createClient<paths>({ baseUrl: window.location.origin, Request: Packed });
api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return;
    if (response.status === 401 && !response.url.endsWith("/session"))
      window.dispatchEvent(new Event(SIGNED_OUT));
    let body: Refused = {};
    try {
      body = (await response.clone().json()) as Refused;
    } catch {
      // A proxy or a crash answered with something else; the status alone has to do.
    }
    throw problemOf(response.status, body);
  },
});

interface Refused {
  detail?: unknown;
  errors?: { path: string; message: string }[];
  version?: number | null;
}

/** What the server says when it refuses, of the body that says so. */
export function problemOf(status: number, { detail, errors, version }: Refused): Problem {
  const words = typeof detail === "string" ? detail : `The server answered ${status}.`;
  const first = errors?.[0];
  return new Problem(status, words, first?.path ?? "", version ?? null, first?.message);
}

/** The data of an answer that the middleware above has let through. */
export function data<T>(answer: { data?: T }): T {
  return answer.data as T;
}

/** Send one file as a form, with more fields if there are any; openapi-fetch needs the serializer spelt out for files. */
export function fileForm<T extends Record<string, string> = object & Record<string, string>>(
  file: File,
  more?: T,
) {
  const form = new FormData();
  form.append("file", file);
  for (const [name, value] of Object.entries(more ?? {})) form.append(name, value);
  // The description of the API calls the file a text, which is how a form sends it.
  const body = { file: file as unknown as string, ...(more as T) };
  return { body, bodySerializer: () => form };
}
