import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Job, type PlanAnswer, type PlanResult } from "../../api/client";
import { identity } from "../../api/identity";
import { useForecast } from "../../job/useForecast";
import { useWork } from "../../job/WorkContext";
import { PathStrip } from "../../path/PathStrip";
import { Complaint } from "../../ui/Complaint";
import { inUnit } from "../../ui/format";
import { Table } from "../../ui/Table";
import { Select } from "../../ui/Select";

interface Side {
  name: string;
  job: Job | null;
  revision?: number;
}

/** Two states of the car: as found, a stage, another plan, an earlier revision. What differs comes first. */
export function Compare({ answer, chosen }: { answer: PlanAnswer; chosen: PlanResult }) {
  const { id, version, job } = useWork();
  const revisions = useQuery({
    queryKey: ["revisions", id, version],
    queryFn: async ({ signal }) => {
      const params = { path: { job_id: id }, query: { limit: 20 } };
      return data(await api.GET("/api/v1/jobs/{job_id}/revisions", { params, signal })).items;
    },
  });
  const sides: Side[] = [
    { name: "as found", job },
    ...[chosen, ...answer.plans.filter((each) => each.name !== chosen.name)].flatMap(sidesOf),
    ...(revisions.data ?? [])
      .filter((each) => each.version !== version)
      .map((each) => ({ name: `revision ${each.version}`, job: null, revision: each.version })),
  ];
  const [first, setFirst] = useState("as found");
  const [second, setSecond] = useState<string | null>(null);
  const before = sides.find((each) => each.name === first) ?? sides[0];
  const after = sides.find((each) => each.name === second) ?? sides[chosen.stages.length] ?? sides[0];
  const left = useDocument(id, before);
  const right = useDocument(id, after);
  const told = useQuery({
    queryKey: ["comparison", identity(left), identity(right)],
    queryFn: async ({ signal }) => {
      if (!left || !right) throw new Error("nothing to compare yet");
      return data(
        await api.POST("/api/v1/job-comparisons", { body: { before: left, document: right }, signal }),
      );
    },
    enabled: left !== null && right !== null,
    placeholderData: (was) => was,
  });
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <Pick label="Compare" value={before?.name ?? ""} sides={sides} onPick={setFirst} />
        <span>with</span>
        <Pick label="With" value={after?.name ?? ""} sides={sides} onPick={setSecond} />
      </div>
      {told.error && <Complaint>{told.error.message}</Complaint>}
      {told.data && (
        <>
          <ul aria-label="What differs" className="mb-3 list-disc pl-5">
            {told.data.changes.map((each) => (
              <li key={each}>{each}</li>
            ))}
            {told.data.changes.length === 0 && <li>Nothing differs.</li>}
          </ul>
          <Table label="Figures of both" head={["", before?.name, after?.name]}>
            {told.data.figures.map((each) => (
              <tr key={each.name} className={each.before === each.after ? "text-soft" : ""}>
                <td>{each.name}</td>
                <td className="figure">{figure(each.before, each.unit)}</td>
                <td className="figure">{figure(each.after, each.unit)}</td>
              </tr>
            ))}
          </Table>
          <Paths left={left} right={right} names={[before?.name ?? "", after?.name ?? ""]} />
        </>
      )}
    </>
  );
}

function sidesOf(plan: PlanResult): Side[] {
  const name = plan.name.split(":")[0];
  return plan.stages.map((stage, i) => ({
    name: i === plan.stages.length - 1 ? `${name}, all stages` : `${name}, stage ${i + 1}`,
    job: stage.job as Job,
  }));
}

/** The document of a side; an earlier revision is read when it is chosen. */
function useDocument(id: number, side: Side | undefined): Job | null {
  const read = useQuery({
    queryKey: ["revision", id, side?.revision],
    queryFn: async ({ signal }) => {
      const path = { job_id: id, version: side?.revision ?? 0 };
      return data(await api.GET("/api/v1/jobs/{job_id}/revisions/{version}", { params: { path }, signal }));
    },
    enabled: side?.revision !== undefined,
  });
  return side?.job ?? (read.data ? (read.data.document as Job) : null);
}

/** Both paths over each other, drawn alike, so that a thinner or a hotter place is seen. */
function Paths({ left, right, names }: { left: Job | null; right: Job | null; names: [string, string] }) {
  const forecasts = [useForecast(left).data, useForecast(right).data];
  const amplifiers = [left, right].map((job) => job?.amplifiers?.length ?? 1);
  return (
    <div className="mt-4 space-y-1">
      {forecasts.map((forecast, i) => (
        <figure key={i} aria-label={`The path: ${names[i]}`}>
          <figcaption className="text-soft text-sm">{names[i]}</figcaption>
          <PathStrip job={null} forecast={forecast ?? null} amplifiers={amplifiers[i] ?? 1} />
        </figure>
      ))}
    </div>
  );
}

function figure(value: number | null, unit: string): string {
  return value === null ? "nothing holds" : `${inUnit(value, unit)} ${unit}`.trim();
}

function Pick({
  label,
  value,
  sides,
  onPick,
}: {
  label: string;
  value: string;
  sides: Side[];
  onPick: (name: string) => void;
}) {
  return (
    <Select aria-label={label} value={value} onChange={(event) => onPick(event.target.value)}>
      {sides.map((each) => (
        <option key={each.name} value={each.name}>
          {each.name}
        </option>
      ))}
    </Select>
  );
}
