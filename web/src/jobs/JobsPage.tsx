import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";

import { api, data, fileForm, type Job, type JobLine } from "../api/client";
import { usePages } from "../api/usePages";
import { useKeys } from "../job/useKeys";
import { AskRemove } from "../ui/AskRemove";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { Input } from "../ui/Input";
import { ListState } from "../ui/ListState";
import { MoreRows } from "../ui/MoreRows";
import { Select } from "../ui/Select";
import { Table, WideHead } from "../ui/Table";
import { EmptyWorkshop } from "./EmptyWorkshop";
import { JobRow } from "./JobRow";
import { STATES } from "./states";
import { useRemoval } from "./useRemoval";
import { useAsked } from "./useAsked";

const SORTS = [
  ["-updated_at", "latest first"],
  ["updated_at", "oldest first"],
  ["title", "by title"],
  ["-title", "by title, backwards"],
] as const;
/** That a list fetches at a time: 30 kB at most. */
const AT_ONCE = 50;
const SHOWN = [["", "all jobs"] as const, ...STATES, ["archived", "archived"] as const];

/** All jobs of the workshop, each with its verdict. */
export function JobsPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const { asked, ask } = useAsked();
  // The address follows what is typed when the page gets to it: a box that showed the address would lose letters.
  const [typed, setTyped] = useState(asked.search);
  const search = useDeferredValue(typed);
  const { sort, shown, tag } = asked;
  const jobs = usePages(["jobs", "pages", search, sort, shown, tag], async (offset, signal) => {
    const archived = shown === "archived";
    const query = {
      offset,
      limit: AT_ONCE,
      search,
      sort,
      tag,
      archived,
      state: archived ? ("" as const) : shown,
    };
    return data(await api.GET("/api/v1/jobs", { params: { query }, signal }));
  });
  const again = () => void client.invalidateQueries({ queryKey: ["jobs"] });
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/v1/jobs/import", fileForm(file))),
    onSuccess: (job) => {
      again();
      void navigate(`/jobs/${job.id}/load`);
    },
  });
  const copy = useMutation({
    mutationFn: async (id: number) => {
      const { document } = data(await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: id } } }));
      const of = document as Job;
      const body = { document: { ...of, title: `Copy of ${of.title}` } };
      return data(await api.POST("/api/v1/jobs", { body }));
    },
    onSuccess: again,
  });
  const archive = useMutation({
    mutationFn: async (job: JobLine) => {
      const params = { path: { job_id: job.id } };
      return data(
        await api.PUT("/api/v1/jobs/{job_id}/archived", { params, body: { archived: !job.archived } }),
      );
    },
    onSuccess: again,
  });
  const removal = useRemoval(again);
  useKeys({ n: () => void navigate("/jobs/new") });
  const { rows } = jobs;
  const everything = search === "" && shown === "" && tag === "";
  const wrong = bring.error ?? copy.error ?? archive.error ?? removal.failed;
  return (
    <div className="mx-auto max-w-6xl px-8 py-6 max-md:px-4">
      <div className="mb-4 flex flex-wrap items-center justify-between gap-3">
        <h1 className="text-2xl font-bold">Jobs</h1>
        <div className="flex flex-wrap gap-2">
          <Button strong onClick={() => void navigate("/jobs/new")}>
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
      <div className="mb-5 flex flex-wrap items-center gap-2" role="search">
        <Input
          type="search"
          aria-label="Find a job by its title, customer, plate or tag"
          placeholder="title, customer, plate or tag"
          className="w-72"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            ask({ search: event.target.value });
          }}
        />
        <Select
          aria-label="Which jobs"
          value={shown}
          onChange={(event) => ask({ shown: SHOWN.find(([key]) => key === event.target.value)?.[0] ?? "" })}
        >
          {SHOWN.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </Select>
        <Select
          aria-label="Order of the jobs"
          value={sort}
          onChange={(event) =>
            ask({ sort: SORTS.find(([key]) => key === event.target.value)?.[0] ?? "-updated_at" })
          }
        >
          {SORTS.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </Select>
        {tag && <Button onClick={() => ask({ tag: "" })}>Tagged {tag}: show all</Button>}
      </div>
      {wrong && <Complaint>{wrong.message}</Complaint>}
      {removal.removed && (
        <p role="status" className="bg-sheet border-rule mb-3 flex flex-wrap items-center gap-3 border px-3">
          {removal.removed.title} was removed.
          <Button className="my-1.5" onClick={removal.bringBack}>
            Put it back
          </Button>
        </p>
      )}
      <AskRemove
        what={removal.asking?.title ?? null}
        busy={removal.busy}
        error={removal.refused}
        onRemove={removal.remove}
        onKeep={() => removal.ask(null)}
      />
      {rows && rows.length > 0 && (
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
            <span key="tools" className="sr-only">
              Copy, archive, delete
            </span>,
          ]}
        >
          {rows.map((job) => (
            <JobRow
              key={job.id}
              job={job}
              busy={copy.isPending || archive.isPending}
              onTag={(word) => ask({ tag: word })}
              onCopy={() => copy.mutate(job.id)}
              onArchive={() => archive.mutate(job)}
              onRemove={() => removal.ask(job)}
            />
          ))}
        </Table>
      )}
      <MoreRows shown={jobs.rows?.length ?? 0} count={jobs.count} more={jobs.more} />
      <ListState what="jobs" rows={rows} error={jobs.error} onAgain={again}>
        {!everything && <p className="text-soft">No job is like that.</p>}
        {everything && <EmptyWorkshop />}
      </ListState>
    </div>
  );
}
