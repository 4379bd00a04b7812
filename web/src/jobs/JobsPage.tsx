import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";

import { api, data, fileForm, type Job } from "../api/client";
import { usePages } from "../api/usePages";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { MoreRows } from "../ui/MoreRows";
import { Table } from "../ui/Table";

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

/** All jobs of the workshop. */
export function JobsPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const jobs = usePages(["jobs", "pages"], async (offset) =>
    data(await api.GET("/api/v1/jobs", { params: { query: { offset } } })),
  );
  const opened = {
    onSuccess: (job: { id: number }) => {
      void client.invalidateQueries({ queryKey: ["jobs"] });
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
  return (
    <div className="mx-auto max-w-5xl px-8 py-6">
      <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
        <h1 className="text-2xl font-bold">Jobs</h1>
        <div className="flex gap-2">
          <Button onClick={() => create.mutate()} disabled={create.isPending}>
            New job
          </Button>
          <FileButton
            label="Import a job file"
            accept=".json"
            busy={bring.isPending}
            onFile={(file) => bring.mutate(file)}
          />
        </div>
      </div>
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      {create.error && <Complaint>{create.error.message}</Complaint>}
      <Table label="Jobs" head={["Job", "Amplifiers", "Drive", "Revision", "Last change"]}>
        {jobs.rows?.map((job) => (
          <tr key={job.id} className="hover:bg-sheet">
            <td>
              <Link
                to={`/jobs/${job.id}/load`}
                className="inline-flex min-h-11 items-center text-lg font-bold underline-offset-4 hover:underline"
              >
                {job.title}
              </Link>
            </td>
            <td>
              {job.summary ? (
                job.summary.amplifiers.join(", ") || "none yet"
              ) : (
                <span className="text-ochre text-sm">▲ {job.problem}</span>
              )}
            </td>
            <td>{job.summary?.drive ?? "–"}</td>
            <td className="figure">{job.version}</td>
            <td>
              {new Date(job.updated_at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
            </td>
          </tr>
        ))}
      </Table>
      <MoreRows shown={jobs.rows?.length ?? 0} count={jobs.count} more={jobs.more} />
      {jobs.error && <Complaint>{jobs.error.message}</Complaint>}
      {jobs.rows?.length === 0 && (
        <p className="text-soft mt-6">No job yet. Start a new one, or import a job file.</p>
      )}
    </div>
  );
}
