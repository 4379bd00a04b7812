import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { api, data, type SetUpSheet } from "../api/client";
import { useAmplifierChoices } from "../bench/useAmplifiers";
import { CRITERIA, type Criterion } from "../bench/criteria";
import { JobAmplifierOptions } from "../job/JobAmplifierOptions";
import { loadOfJob, type LoadOfJob } from "../job/loadOfJob";
import { CautionList } from "../ui/CautionList";
import { Choice } from "../ui/Choice";
import { Complaint } from "../ui/Complaint";
import { Figure } from "../ui/Figure";
import { fixed, plain } from "../ui/format";
import { NumberBox } from "../ui/NumberBox";
import { Select } from "../ui/Select";

const CRITERION_CHOICES = (["thd1", "clip"] as const).map((key) => [key, CRITERIA[key].words] as const);
const GAIN_LOOK = {
  "in range": ["✓ in range", "text-moss"],
  "too low": ["▲ too low", "text-ochre"],
  overdriven: ["◆ overdriven", "text-vermilion"],
  unknown: ["– unknown", "text-soft"],
} as const;

const ONTO = [
  ["drivers", "drivers on"],
  ["resistor", "a resistor"],
  ["unloaded", "nothing on"],
] as const;

type Onto = (typeof ONTO)[number][0];
type To = LoadOfJob & { onto: Onto; silent_supply_v: number };

/** What to set the gain to, for an amplifier of the bench or of a job, and whether the source suits it. */
export function SetUpView() {
  const bench = useAmplifierChoices();
  const [query, setQuery] = useSearchParams();
  const of = query.get("for") ?? "";
  const [to, setTo] = useState<To>({
    load_ohm: 2,
    supply_v: 14.4,
    onto: "drivers",
    silent_supply_v: 14.4,
    overlap_db: 5,
    rise: 1,
    power_factor: 1,
    high_pass_hz: null,
    low_pass_hz: 80,
    bridged: false,
  });
  const [criterion, setCriterion] = useState<Criterion>("thd1");
  const [source, setSource] = useState({ clean_v: 4, clean_step: 33 });
  const change = (next: Partial<To>) => setTo({ ...to, ...next });
  const [kind, id, within] = of.split(":");
  const body = {
    ...(kind === "job"
      ? { job_id: Number(id), job_amplifier: within ?? "" }
      : { amplifier_id: Number(id), job_amplifier: "" }),
    to: { ...to, criterion, source },
  };
  const sheet = useQuery({
    queryKey: ["set-up-sheet", body],
    queryFn: async () => data(await api.POST("/api/v1/gain-settings", { body })),
    enabled: of !== "",
    placeholderData: keepPreviousData,
  });
  const choose = (next: string) => setQuery({ view: "set-up", for: next }, { replace: true });
  const given = useQuery({
    queryKey: ["load-of-job", of],
    queryFn: () => loadOfJob(of),
    enabled: of.startsWith("job:"),
    gcTime: 0,
  });
  const [taken, setTaken] = useState<LoadOfJob | null>(null);
  if (given.data && given.data !== taken) {
    setTaken(given.data);
    setTo({ ...to, ...given.data });
  }
  return (
    <div className="grid grid-cols-[330px_minmax(0,1fr)] gap-10 max-md:grid-cols-1">
      <div className="space-y-3 print:hidden">
        <label className="text-soft block text-sm">
          Amplifier
          <Select className="block w-full" value={of} onChange={(event) => choose(event.target.value)}>
            <option value="">choose an amplifier</option>
            <JobAmplifierOptions label="In a job, with its load and volts" />
            <optgroup label="On the bench">
              {bench.data?.map((each) => (
                <option key={each.id} value={`bench:${each.id}`}>
                  {each.name}
                </option>
              ))}
            </optgroup>
          </Select>
        </label>
        <div className="flex flex-wrap gap-3">
          <NumberBox
            label="Nominal load"
            unit="Ω"
            value={to.load_ohm}
            onChange={(load_ohm) => change({ load_ohm })}
          />
          <NumberBox
            label="Supply under load"
            unit="V"
            value={round(to.supply_v)}
            onChange={(supply_v) => change({ supply_v })}
          />
          <NumberBox
            label="Overlap"
            unit="dB"
            value={to.overlap_db}
            onChange={(overlap_db) => change({ overlap_db })}
          />
          <NumberBox
            label="Low-pass after"
            unit="Hz"
            value={to.low_pass_hz ?? 80}
            onChange={(low_pass_hz) => change({ low_pass_hz })}
          />
          <NumberBox
            label="Impedance rise"
            unit="×"
            value={round(to.rise)}
            onChange={(rise) => change({ rise })}
          />
          <NumberBox
            label="Power factor"
            value={round(to.power_factor)}
            onChange={(power_factor) => change({ power_factor })}
          />
        </div>
        <Choice label="Onto" value={to.onto} options={ONTO} onChange={(onto) => change({ onto })} />
        {to.onto === "unloaded" && (
          <NumberBox
            label="Supply in silence"
            unit="V"
            value={round(to.silent_supply_v)}
            onChange={(silent_supply_v) => change({ silent_supply_v })}
          />
        )}
        <Choice label="To" value={criterion} options={CRITERION_CHOICES} onChange={setCriterion} />
        <h2 className="pt-2">The source</h2>
        <div className="flex flex-wrap gap-3">
          <NumberBox
            label="Clean output"
            unit="V"
            value={source.clean_v}
            onChange={(clean_v) => setSource({ ...source, clean_v })}
          />
          <NumberBox
            label="Last clean volume step"
            value={source.clean_step}
            onChange={(clean_step) => setSource({ ...source, clean_step })}
          />
        </div>
        <p className="text-soft text-sm">
          Play 1 kHz at 0 dB and raise the source step by step until its sine flattens on a scope, or a meter
          stops rising: the step before is the last clean one.
        </p>
      </div>
      <div className="min-w-0">
        {sheet.error && <Complaint>{sheet.error.message}</Complaint>}
        {of === "" && (
          <p className="text-soft">
            Choose an amplifier; one of a job brings its load, filters and volts along.
          </p>
        )}
        {of !== "" && sheet.data && !sheet.error && <Sheet sheet={sheet.data} />}
      </div>
    </div>
  );
}

function Sheet({ sheet }: { sheet: SetUpSheet }) {
  const gain = sheet.gain;
  const [verdict, colour] = GAIN_LOOK[(gain?.verdict ?? "unknown") as keyof typeof GAIN_LOOK];
  return (
    <article aria-label="Set-up sheet" className="border-rule bg-sheet border p-5">
      <h2 className="text-xl">{sheet.name}</h2>
      <div className="border-rule my-3 flex flex-wrap gap-x-10 gap-y-2 border-y py-3">
        <Headline words="Set the output to">
          {sheet.target_v && <Figure figure={sheet.target_v} tone="teal" />}
          <span className="text-soft text-sm"> AC, meter on {plain(sheet.meter_range_v)} V</span>
        </Headline>
        <Headline words="while this plays">
          <span className="figure text-[22px]">{plain(sheet.tone_hz)} Hz</span>
          <span className="text-soft text-sm"> at −{plain(sheet.overlap_db)} dB</span>
        </Headline>
        <Headline words="A clamp then shows about">
          {sheet.clamp_a && <Figure figure={sheet.clamp_a} tone="copper" />}
        </Headline>
        <Headline words="and its supply terminals">
          <span className="figure text-[22px]">{fixed(sheet.terminal_v, 1)} V</span>
        </Headline>
      </div>
      {gain && (
        <p className="mb-3">
          <b className={colour}>{verdict}</b>: {gain.text}
        </p>
      )}
      <ol className="list-decimal space-y-1 pl-5">
        {sheet.steps.map((step) => (
          <li key={step.do}>{step.do}</li>
        ))}
      </ol>
      <h3 className="mt-3 font-bold">Afterwards</h3>
      <ul className="list-disc space-y-1 pl-5">
        {sheet.steps
          .filter((step) => step.restore)
          .map((step) => (
            <li key={step.restore}>{step.restore}</li>
          ))}
      </ul>
      <CautionList cautions={sheet.cautions} />
      {sheet.gaps.length > 0 && (
        <p className="text-soft mt-2 text-sm">{sheet.gaps.map((gap) => `▪ ${gap}. `)}</p>
      )}
    </article>
  );
}

function Headline({ words, children }: { words: string; children: React.ReactNode }) {
  return (
    <div>
      <p className="text-soft text-sm">{words}</p>
      {children}
    </div>
  );
}

function round(value: number): number {
  return Number(value.toPrecision(4));
}
