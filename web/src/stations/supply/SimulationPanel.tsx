import { lazy, Suspense, useEffect, useRef, useState } from "react";

import { api, data, type SimulationResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, watts } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { saveFile } from "../../ui/saveFile";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { PROGRAMME_WORDS } from "../useBases";
import { howLong } from "./howLong";

const SimulationChart = lazy(async () => ({ default: (await import("./SimulationChart")).SimulationChart }));

/** A simulation over time: run it, stop it, look along it, keep it. */
export function SimulationPanel() {
  const { job } = useWork();
  const [seconds, setSeconds] = useState(300);
  const [running, setRunning] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const [found, setFound] = useState<{ session: SimulationResult; of: string } | null>(null);
  const abort = useRef<AbortController | null>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const run = async () => {
    const now = new AbortController();
    abort.current = now;
    setRunning(true);
    setProblem(null);
    try {
      const body = { document: job, seconds };
      const session = data(await api.POST("/api/v1/simulations", { body, signal: now.signal }));
      const words = `${PROGRAMME_WORDS[job.basis.programme] ?? job.basis.programme}, engine ${job.basis.engine}`;
      setFound({ session, of: words });
    } catch (error) {
      if (!now.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
    }
    setRunning(false);
  };
  const keep = async () => {
    const answer = await api.POST("/api/v1/simulations/csv", {
      body: { document: job, seconds },
      parseAs: "text",
    });
    saveFile("simulation.csv", String(answer.data ?? ""), "text/csv");
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
        {running && <progress aria-label="The session is running" className="mb-3" />}
        {found && !running && <Button onClick={() => void keep()}>Save as CSV</Button>}
      </div>
      {problem && <Complaint>{problem}</Complaint>}
      {found && (
        <div className="mt-3">
          <p className="text-soft mb-1 text-sm">{found.of}</p>
          <Suspense fallback={<div className="h-[290px]" />}>
            <SimulationChart series={found.session.series} />
          </Suspense>
          <Told session={found.session} />
        </div>
      )}
    </Group>
  );
}

function Told({ session }: { session: SimulationResult }) {
  const { front_v: front, terminal_v: terminal } = session;
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
        {session.sources.map((each) => (
          <tr key={each.name}>
            <td>{each.name}</td>
            <td className="figure text-copper">{fixed(each.peak_a, 0)} A most</td>
            <td className="figure">{fixed(each.at_loudest_a, 0)} A when loudest</td>
            <td className="figure">{fixed(each.mean_a, 1)} A</td>
          </tr>
        ))}
      </Table>
      <ul className="mt-2 space-y-0.5 text-sm">
        <li>
          <span className="figure">{watts(session.delivered_w)} W</span> into the coils, mean;{" "}
          <span className="figure">{fixed(session.lost_to_sag_db, 1)} dB</span> against a held 14.4 V.
        </li>
        <li>
          {session.dims ? "▲ The lights dim" : "✓ The lights do not dim"}: the front posts have{" "}
          {fixed(session.silent_v, 2)} V in silence and {fixed(session.front_v.min, 2)} V at the lowest.{" "}
          {session.dips > 0
            ? `They flicker ${session.dips} times, by up to ${fixed(session.deepest_dip_v, 2)} V within half a second.`
            : `They do not flicker: ${fixed(session.deepest_dip_v, 2)} V within half a second at most.`}
        </li>
        {session.switched_off > 0 && (
          <li className="text-vermilion">
            ◆ An amplifier fell below its cut-out {session.switched_off} times.
          </li>
        )}
        <li>
          Engine off, this programme: {howLong(session.time_to_12v_s)} to 12.0 V at the front posts,{" "}
          {howLong(session.time_to_half_s)} to half charge. From half charge, silent:{" "}
          {howLong(session.recharge_idle_s)} at idle, {howLong(session.recharge_cruise_s)} at cruise to 95 %.
        </li>
      </ul>
    </>
  );
}
