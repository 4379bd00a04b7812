import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Copy, Trash2 } from "lucide-react";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, data, fileForm, type Job, type JobLine } from "../api/client";
import { usePages } from "../api/usePages";
import { forget } from "../drafts/drafts";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { fixed, watts } from "../ui/format";
import { MoreRows } from "../ui/MoreRows";
import { SeverityMark } from "../ui/SeverityMark";
import { Table, WideHead } from "../ui/Table";
import { Input } from "../ui/Input";
import { Select } from "../ui/Select";

/** A new job: an ordinary car with one battery, everything in it assumed until somebody says better. */
const NEW_JOB = {
  title: "New job",
  vehicle: {
    loads: [{ name: "The car at work", off_a: assume(0.1), idle_a: assume(25), cruise_a: assume(28) }],
  },
  chargers: [
    { name: "Alternator", kind: "alternator", at: "front", rated_a: assume(120), idle_a: assume(60) },
  ],
  banks: [
    {
      name: "Front battery",
      at: "front",
      chemistry: "agm",
      capacity_ah: assume(70),
      resistance_ohm: assume(0.005),
    },
  ],
};

function assume(value: number) {
  return { value, origin: "assumed" };
}

const SORTS = [
  ["-updated_at", "latest first"],
  ["updated_at", "oldest first"],
  ["title", "by title"],
  ["-title", "by title, backwards"],
] as const;
type Sort = (typeof SORTS)[number][0];
const STATES = { found: "as found", planned: "planned", fitted: "fitted", proved: "proved" };
const INPUT = "border-rule bg-sheet h-11 rounded-sm border px-3";

/** All jobs of the workshop, each with its verdict. */
export function JobsPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [search, setSearch] = useState("");
  const [sort, setSort] = useState<Sort>("-updated_at");
  const wanted = useDeferredValue(search);
  const jobs = usePages(["jobs", "pages", wanted, sort], async (offset, signal) =>
    data(await api.GET("/api/v1/jobs", { params: { query: { offset, search: wanted, sort } }, signal })),
  );
  const again = () => void client.invalidateQueries({ queryKey: ["jobs"] });
  const opened = {
    onSuccess: (job: { id: number }) => {
      again();
      void navigate(`/jobs/${job.id}/load`);
    },
  };
  const create = useMutation({
    mutationFn: async () =>
      data(await api.POST("/api/v1/jobs", { body: { document: NEW_JOB as unknown as Job } })),
    ...opened,
  });
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/v1/jobs/import", fileForm(file))),
    ...opened,
  });
  const copy = useMutation({
    mutationFn: async (id: number) => {
      const { document } = data(await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: id } } }));
      const of = document as Job;
      return data(
        await api.POST("/api/v1/jobs", { body: { document: { ...of, title: `Copy of ${of.title}` } } }),
      );
    },
    onSuccess: again,
  });
  const { leaving, remove, bringBack, failed } = useRemoval(again);
  const rows = jobs.rows?.filter((job) => job.id !== leaving?.id);
  const busy = create.isPending || create.isSuccess;
  const wrong = bring.error ?? create.error ?? copy.error ?? failed ?? jobs.error;
  return (
    <div className="mx-auto max-w-6xl px-8 py-6 max-md:px-4">
      <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
        <h1 className="text-2xl font-bold">Jobs</h1>
        <div className="flex flex-wrap gap-2">
          <Input
            type="search"
            aria-label="Find a job by its title"
            placeholder="Find"
            className={`${INPUT} w-40`}
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Select
            aria-label="Order of the jobs"
            className={INPUT}
            value={sort}
            onChange={(event) =>
              setSort(SORTS.find(([key]) => key === event.target.value)?.[0] ?? "-updated_at")
            }
          >
            {SORTS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
          <Button strong onClick={() => create.mutate()} disabled={busy}>
            New job
          </Button>
          <FileButton
            label="Import a job file"
            accept=".json"
            quiet
            busy={bring.isPending}
            onFile={(file) => bring.mutate(file)}
          />
        </div>
      </div>
      {wrong && <Complaint>{wrong.message}</Complaint>}
      {leaving && (
        <p role="status" className="bg-sheet border-rule mb-3 flex flex-wrap items-center gap-3 border px-3">
          {leaving.title} is being deleted.
          <Button className="my-1.5" onClick={bringBack}>
            Undo
          </Button>
        </p>
      )}
      <Table
        label="Jobs"
        head={[
          "Job",
          <WideHead key="volts">At idle</WideHead>,
          <WideHead key="watts">Delivered</WideHead>,
          <WideHead key="flag" left>
            Worst flag
          </WideHead>,
          <WideHead key="state">State</WideHead>,
          <WideHead key="change">Last change</WideHead>,
          "",
        ]}
      >
        {rows?.map((job) => (
          <JobRow
            key={job.id}
            job={job}
            onCopy={() => copy.mutate(job.id)}
            copying={copy.isPending}
            onRemove={() => remove(job)}
          />
        ))}
      </Table>
      <MoreRows shown={jobs.rows?.length ?? 0} count={jobs.count} more={jobs.more} />
      {!jobs.rows && !jobs.error && <p className="text-soft mt-6">Looking for jobs …</p>}
      {rows?.length === 0 && (
        <p className="text-soft mt-6">
          {wanted === ""
            ? "No job yet. Start a new one, or import a job file."
            : `No job's title holds "${wanted}".`}
        </p>
      )}
    </div>
  );
}

interface RowProps {
  job: JobLine;
  copying: boolean;
  onCopy: () => void;
  onRemove: () => void;
}

function JobRow({ job, copying, onCopy, onRemove }: RowProps) {
  const { summary } = job;
  return (
    <tr className="hover:bg-sheet">
      <td>
        <Link
          to={`/jobs/${job.id}/load`}
          className="inline-flex min-h-11 items-center text-lg font-bold underline-offset-4 hover:underline"
        >
          {job.title}
        </Link>
        <span className="text-soft block text-sm">
          {summary ? summary.amplifiers.join(", ") || "no amplifier yet" : ""}
        </span>
        {summary && (
          <span className="block text-sm md:hidden">
            <span className="figure text-teal">
              {summary.idle_v === null ? "" : `${fixed(summary.idle_v, 2)} V`}
            </span>{" "}
            <span className="figure">
              {summary.delivered_w === null ? "" : `${watts(summary.delivered_w)} W`}
            </span>{" "}
            <WorstFlag summary={summary} /> <span className="text-soft">· {STATES[summary.state]}</span>
          </span>
        )}
      </td>
      {summary ? (
        <>
          <td className="figure text-teal whitespace-nowrap max-md:hidden">
            {summary.idle_v === null ? "–" : `${fixed(summary.idle_v, 2)} V`}
          </td>
          <td className="figure whitespace-nowrap max-md:hidden">
            {summary.delivered_w === null ? "–" : `${watts(summary.delivered_w)} W`}
          </td>
          <td className="text-left! text-sm max-md:hidden">
            <WorstFlag summary={summary} />
          </td>
          <td className="text-sm whitespace-nowrap max-md:hidden">{STATES[summary.state]}</td>
        </>
      ) : (
        <td colSpan={4} className="text-ochre text-left! text-sm">
          ▲ {job.problem}
        </td>
      )}
      <td className="text-sm whitespace-nowrap max-md:hidden">
        {new Date(job.updated_at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
        <span className="text-soft block">revision {job.version}</span>
      </td>
      <td className="whitespace-nowrap">
        <Button
          className="border-transparent bg-transparent px-2"
          onClick={onCopy}
          disabled={copying}
          aria-label={`Copy ${job.title}`}
        >
          <Copy size={16} aria-hidden />
        </Button>
        <Button
          className="border-transparent bg-transparent px-2"
          onClick={onRemove}
          aria-label={`Delete ${job.title}`}
        >
          <Trash2 size={16} aria-hidden />
        </Button>
      </td>
    </tr>
  );
}

function WorstFlag({ summary }: { summary: NonNullable<JobLine["summary"]> }) {
  if (summary.worst === null) return <span className="text-soft">nothing flagged</span>;
  return (
    <>
      <SeverityMark severity={summary.worst} /> {summary.worst_title}
    </>
  );
}

const UNDO_MS = 8000;

/** Deletes a job a moment after it was asked for, so that it can be taken back; leaving the page does it at once. */
function useRemoval(onDone: () => void) {
  const [leaving, setLeaving] = useState<JobLine | null>(null);
  const removal = useMutation({
    mutationFn: async (job: JobLine) => {
      await api.DELETE("/api/v1/jobs/{job_id}", { params: { path: { job_id: job.id } }, keepalive: true });
      await forget(`job:${job.id}`);
    },
    onSettled: onDone,
  });
  const { mutate } = removal;
  const kept = useRef<() => void>(() => undefined);
  useEffect(() => () => kept.current(), []);
  useEffect(() => {
    if (!leaving) return;
    let done = false;
    const now = () => {
      if (!done) mutate(leaving);
      done = true;
    };
    const timer = setTimeout(() => {
      now();
      setLeaving(null);
    }, UNDO_MS);
    window.addEventListener("pagehide", now);
    kept.current = now;
    return () => {
      clearTimeout(timer);
      window.removeEventListener("pagehide", now);
    };
  }, [leaving, mutate]);
  return {
    leaving,
    failed: removal.error,
    remove: (job: JobLine) => {
      kept.current(); // one at a time: the one before goes now
      setLeaving(job);
    },
    bringBack: () => {
      kept.current = () => undefined;
      setLeaving(null);
    },
  };
}
