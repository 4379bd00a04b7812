import { skipToken, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";

import { api, data, type Job, type SimulationResult } from "../../api/client";
import { same } from "../../api/same";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { amps, fixed, plain, watts } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { saveFile } from "../../ui/saveFile";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { PROGRAMME_WORDS } from "../useSupplyReport";
import { howLong, lowV } from "./howLong";

const SimulationChart = lazy(async () => ({ default: (await import("./SimulationChart")).SimulationChart }));

/** A simulation over time: run it, stop it, look along it, keep it. */
export function SimulationPanel() {
  const { id, job, forecast } = useWork();
  const { found, keepFound } = useFound(id);
  const [seconds, setSeconds] = useState(found?.seconds ?? 300);
  const [running, setRunning] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const abort = useRef<AbortController | null>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const run = async () => {
    const now = new AbortController();
    abort.current = now;
    setRunning(true);
    setProblem(null);
    try {
      const body = { document: job, seconds };
      const simulation = data(await api.POST("/api/v1/simulations", { body, signal: now.signal }));
      const words = `${PROGRAMME_WORDS[job.basis.programme] ?? job.basis.programme}, engine ${job.basis.engine}`;
      keepFound({ simulation, of: words, job, seconds });
    } catch (error) {
      if (!now.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
    }
    setRunning(false);
  };
  const keep = async () => {
    if (!found) return;
    try {
      const body = { document: found.job, seconds: found.seconds };
      const answer = await api.POST("/api/v1/simulations/csv", { body, parseAs: "text" });
      saveFile("simulation.csv", String(answer.data ?? ""), "text/csv");
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Group title="A simulation over time">
      <div className="flex flex-wrap items-end gap-3">
        <NumberBox label="Length" unit="s" value={seconds} onChange={setSeconds} />
        {running ? (
          <Button onClick={() => abort.current?.abort()}>Cancel</Button>
        ) : (
          <Button strong onClick={() => void run()}>
            Run the simulation
          </Button>
        )}
        {running && <progress aria-label="The simulation is running" className="mb-3" />}
        {found && !running && <Button onClick={() => void keep()}>Save as CSV</Button>}
      </div>
      {problem && <Complaint>{problem}</Complaint>}
      {found && (
        <div className="mt-3">
          <p className="text-soft mb-1 text-sm">
            {found.of}, {plain(found.seconds)} s
          </p>
          {!same(found.job, job) && (
            <p role="status" className="text-ochre mb-1 text-sm">
              ▲ This is of the job as it was when it ran: something was changed since. Run it again to see
              what that does.
            </p>
          )}
          <Suspense fallback={<div className="h-[290px]" />}>
            <SimulationChart series={found.simulation.series} lines={forecast?.terminal_lines} />
          </Suspense>
          <Told simulation={found.simulation} job={found.job} />
        </div>
      )}
    </Group>
  );
}

interface Found {
  simulation: SimulationResult;
  of: string;
  /** The job that it was of, and how long it played. */
  job: Job;
  seconds: number;
}

/** The last simulation of a job, as long as the page is open: it is not gone when another station is looked at. */
function useFound(id: number) {
  const client = useQueryClient();
  const queryKey = useMemo(() => ["simulation", id], [id]);
  const { data: found } = useQuery<Found | null>({
    queryKey,
    queryFn: skipToken,
    gcTime: Infinity,
    staleTime: Infinity,
  });
  const keepFound = (now: Found) => client.setQueryData(queryKey, now);
  return { found: found ?? null, keepFound };
}

function Told({ simulation, job }: { simulation: SimulationResult; job: Job }) {
  const { front_v: front, terminal_v: terminal } = simulation;
  return (
    <>
      <Table label="What came of the simulation" head={["", "Lowest", "1 % of the time below", "Mean"]}>
        <tr>
          <td>Front battery</td>
          <td className="figure text-teal">{fixed(front.min, 2)} V</td>
          <td className="figure">{fixed(front.low1, 2)} V</td>
          <td className="figure">{fixed(front.mean, 2)} V</td>
        </tr>
        {terminal && (
          <tr>
            <td>At the amplifier</td>
            <td className="figure text-teal">{fixed(terminal.min, 2)} V</td>
            <td className="figure">{fixed(terminal.low1, 2)} V</td>
            <td className="figure">{fixed(terminal.mean, 2)} V</td>
          </tr>
        )}
        {simulation.sources.map((each) => (
          <tr key={each.name}>
            <td>{each.name}</td>
            <td className="figure text-copper">{fixed(each.peak_a, 0)} A most</td>
            <td className="figure">{fixed(each.at_loudest_a, 0)} A when loudest</td>
            <td className="figure">{amps(each.mean_a)} A</td>
          </tr>
        ))}
      </Table>
      <ul className="mt-2 space-y-0.5 text-sm">
        <li>
          <span className="figure">{watts(simulation.delivered_w)} W</span> into the coils, mean;{" "}
          <span className="figure">{fixed(simulation.lost_to_sag_db, 1)} dB</span> against a held 14.4 V.
        </li>
        <li>
          {simulation.dims ? "▲ The lights dim" : "✓ The lights do not dim"}: the front posts have{" "}
          {fixed(simulation.silent_v, 2)} V in silence and {fixed(simulation.front_v.min, 2)} V at the lowest.{" "}
          {simulation.dips > 0
            ? `They flicker ${simulation.dips} times, by up to ${fixed(simulation.deepest_dip_v, 2)} V within half a second.`
            : `They do not flicker: ${fixed(simulation.deepest_dip_v, 2)} V within half a second at most.`}
        </li>
        {simulation.switched_off > 0 && (
          <li className="text-vermilion">
            ◆ An amplifier fell below its cut-out {simulation.switched_off} times.
          </li>
        )}
        <li>
          Engine off, this programme: {howLong(simulation.time_to_12v_s)} to {lowV(job)} V at a battery&apos;s
          posts, {howLong(simulation.time_to_half_s)} until the first battery is at half charge. From half
          charge, silent: {howLong(simulation.recharge_idle_s)} at idle,{" "}
          {howLong(simulation.recharge_cruise_s)} at cruise until all are at 95 %.
        </li>
      </ul>
    </>
  );
}
