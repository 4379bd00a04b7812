import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import type { CorrectedParameter, ProofOut, ReadingResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { LeftHead, Table } from "../../ui/Table";
import { Group } from "../Split";
import { ResidualPlot } from "./ResidualPlot";
import { band, shown } from "./shown";
import { accept, useProof } from "./useProof";
import type { ReadingsLog } from "./useLog";
import { inWords } from "../../ui/writing";

/** What the readings say: the likeliest cause, each reading against its band, the model corrected, what to read next. */
export function VerdictView({ log }: { log: ReadingsLog }) {
  const proof = useProof(log.current);
  if (log.ready && log.current.length === 0)
    return (
      <p className="py-3">Nothing was read yet: take the first readings of the test card, then come back.</p>
    );
  if (proof.error) return <Complaint>{proof.error.message}</Complaint>;
  if (!proof.data || !log.ready)
    return <p className="text-soft py-6">Holding the readings against the model …</p>;
  const { result } = proof.data;
  return (
    <div aria-busy={proof.isPlaceholderData}>
      <Said proof={proof.data} />
      <div className="grid grid-cols-1 gap-x-5 2xl:grid-cols-[minmax(0,1fr)_460px]">
        <div className="2xl:order-last">
          <ResidualPlot readings={result.readings} />
        </div>
        <Group title="Readings against the forecast">
          <Readings readings={result.readings} />
        </Group>
      </div>
      <Corrections key={proof.data.ids.join()} proof={proof.data} />
      <Next proof={proof.data} />
    </div>
  );
}

function Said({ proof: { result } }: { proof: ProofOut }) {
  const { verdict, outside_model: outside, alternatives, confounded, answer, readings } = result;
  const compared = readings.filter((each) => each.inside !== null);
  const inside = compared.filter((each) => each.inside).length;
  const allInside = compared.length > 0 && inside === compared.length;
  return (
    <section aria-label="Verdict" className="mb-5 max-w-3xl">
      <p className="text-lg font-bold">
        {compared.length === 0 ? (
          <span>None of the readings can be held against the model.</span>
        ) : allInside ? (
          <span className="text-moss">✓ All {inside} readings lie where the model says.</span>
        ) : (
          <span>
            {inside} of {compared.length} readings lie where the model says.
          </span>
        )}
      </p>
      {outside && <p className="text-vermilion mt-1">◆ {outside} Nothing is corrected.</p>}
      <ul className="mt-1 space-y-1">
        {verdict.map((words) => (
          <li key={words}>▲ {inWords(words)}</li>
        ))}
        {alternatives.map((each) => (
          <li key={each.words} className="text-soft">
            {inWords(each.words)} {each.decided_by && <>What decides: {each.decided_by}.</>}
          </li>
        ))}
        {confounded.map((words) => (
          <li key={words} className="text-soft text-sm">
            {inWords(words)}
          </li>
        ))}
      </ul>
      {allInside && <MarkProved />}
      {answer && (
        <p className="mt-2">
          At the amplifier, in the job&rsquo;s own state:{" "}
          <span className="figure text-teal">{fixed(answer.before, 2)}</span> ±{" "}
          {fixed(1.96 * answer.before_sigma, 2)} V as the job stands,{" "}
          <span className="figure text-teal font-bold">{fixed(answer.after, 2)}</span> ±{" "}
          {fixed(1.96 * answer.after_sigma, 2)} V by the readings.
        </p>
      )}
    </section>
  );
}

/** A fitted car in which everything that was read lies where the model says may be called proved; somebody says so. */
function MarkProved() {
  const { job, change } = useWork();
  if (job.state === "proved") return <p className="mt-1">The job is marked as proved.</p>;
  return (
    <Button className="mt-2" onClick={() => change("state", "proved")}>
      Mark the job as proved
    </Button>
  );
}

function Readings({ readings }: { readings: ReadingResult[] }) {
  return (
    <Table
      label="Readings against the forecast"
      head={["", <LeftHead key="w">What</LeftHead>, "Forecast", "Read", "Off by", "", "Corrected car"]}
    >
      {readings.map((each) => (
        <tr key={each.row}>
          <td className="figure">{each.row}</td>
          <td className="min-w-48 text-left!">
            {each.words}
            <span className="text-soft block text-sm">{each.state}</span>
            {each.why && <span className="text-vermilion block text-sm">◆ {each.why}</span>}
          </td>
          <td className="figure">
            {each.predicted === null ? "–" : shown(each.predicted, each.unit)}
            {each.low !== null && each.high !== null && (
              <span className="text-soft block text-sm">{band(each.low, each.high, each.unit)}</span>
            )}
          </td>
          <td className="figure">{shown(each.measured, each.unit)}</td>
          <td className="figure">{each.residual === null ? "–" : shown(each.residual, each.unit)}</td>
          <td className="whitespace-nowrap">
            <Where each={each} />
          </td>
          <td className="figure">{each.corrected === null ? "–" : shown(each.corrected, each.unit)}</td>
        </tr>
      ))}
    </Table>
  );
}

function Where({ each }: { each: ReadingResult }) {
  if (each.suspect) return <span className="text-vermilion">✕ suspect</span>;
  if (each.inside === null) return <span className="text-soft">nothing to hold it to</span>;
  return each.inside ? (
    <span className="text-moss">✓ inside</span>
  ) : (
    <span className="text-vermilion">◆ outside</span>
  );
}

/** The numbers that the readings tell, before and after; those that are ticked go into the job as measured. */
function Corrections({ proof }: { proof: ProofOut }) {
  const { id, job, change } = useWork();
  const told = proof.result.corrections.filter((each) => each.told > 0.1);
  const [off, setOff] = useState<string[]>([]);
  const chosen = told.filter((each) => each.accepted && !off.includes(each.field)).map((each) => each.field);
  const take = useMutation({
    mutationFn: async () => accept(id, job, chosen),
    onSuccess: (document) => change("", document),
  });
  if (told.length === 0) return null;
  return (
    <Group title="The model, corrected">
      <p className="text-soft text-sm">
        What was told by more than half may be accepted: it is then measured, with this spread, and every
        later figure of the job rests on it.
      </p>
      <Table
        label="The model, corrected"
        head={[
          "Take",
          <LeftHead key="w">What</LeftHead>,
          "As it stands",
          "By the readings",
          "Spread, ±",
          "Told",
        ]}
      >
        {told.map((each) => (
          <tr key={each.field} className={each.accepted ? "" : "text-soft"}>
            <td>
              <Tick
                each={each}
                on={chosen.includes(each.field)}
                onTick={(on) => setOff(on ? off.filter((one) => one !== each.field) : [...off, each.field])}
              />
            </td>
            <td className="text-left!">
              {each.name}
              <span className="text-soft block text-sm">{each.part}</span>
            </td>
            <td className="figure">{valueWords(each, each.before)}</td>
            <td className="figure font-bold">{valueWords(each, each.after)}</td>
            <td className="figure">{valueWords(each, each.spread)}</td>
            <td className="figure">{fixed(100 * each.told, 0)} %</td>
          </tr>
        ))}
      </Table>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button strong disabled={chosen.length === 0 || take.isPending} onClick={() => take.mutate()}>
          Put {chosen.length === 1 ? "it" : `these ${chosen.length}`} into the job
        </Button>
        {take.isSuccess && (
          <span role="status" className="text-moss">
            ✓ In the job as measured. Undo takes it back.
          </span>
        )}
      </div>
      {take.error && <Complaint>{take.error.message}</Complaint>}
    </Group>
  );
}

function valueWords(each: CorrectedParameter, value: number): string {
  return each.unit ? shown(value, each.unit) : `${fixed(100 * value, value < 0.1 ? 1 : 0)} %`;
}

function Tick({
  each,
  on,
  onTick,
}: {
  each: CorrectedParameter;
  on: boolean;
  onTick: (on: boolean) => void;
}) {
  return (
    <label className="inline-grid size-11 place-items-center">
      <input
        type="checkbox"
        className="size-5"
        aria-label={`Take ${each.name}, ${each.part}`}
        disabled={!each.accepted}
        checked={on}
        onChange={(event) => onTick(event.target.checked)}
      />
    </label>
  );
}

function Next({ proof }: { proof: ProofOut }) {
  const { next } = proof.result;
  if (next.length === 0) return null;
  return (
    <Group title="Read this next">
      <ol className="list-decimal space-y-1 pl-5">
        {next.map((each) => (
          <li key={`${each.words} ${each.state}`}>
            {each.words}.{" "}
            <span className="text-soft">
              {each.state}; {each.place}. It may take some {fixed(100 * each.gain, 0)} % of what is unsure (an
              estimate).
            </span>
          </li>
        ))}
      </ol>
    </Group>
  );
}
