import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";

import type { Job } from "../api/client";
import { PathStrip } from "../path/PathStrip";
import { Complaint } from "../ui/Complaint";
import { Region } from "../ui/Region";
import { JobHeader } from "./JobHeader";
import { KeyLine } from "./KeyLine";
import { KeysHelp } from "./KeysHelp";
import { Ledger } from "./Ledger";
import { ENGINES, next, PLAYED, usePlaying } from "./playing";
import { RefusedNote } from "./RefusedNote";
import { StationNav } from "./StationNav";
import { isStation, STATIONS, type Station } from "./stations";
import { useGoTo } from "./useGoTo";
import { useJob, type Work } from "./useJob";
import { useKeys } from "./useKeys";
import { useLasting } from "./useLasting";
import { useOnItsWay } from "./useWorkedOut";
import { WorkContext } from "./WorkContext";

/** Each station comes when it is first opened: whoever opens a job waits for the path and one of them. */
const PLACE = {
  load: lazy(async () => ({ default: (await import("../stations/load/LoadStation")).LoadStation })),
  amplifiers: lazy(async () => ({
    default: (await import("../stations/AmplifiersStation")).AmplifiersStation,
  })),
  draw: lazy(async () => ({ default: (await import("../stations/draw/DrawStation")).DrawStation })),
  supply: lazy(async () => ({ default: (await import("../stations/supply/SupplyStation")).SupplyStation })),
  cable: lazy(async () => ({ default: (await import("../stations/cable/CableStation")).CableStation })),
  plan: lazy(async () => ({ default: (await import("../stations/plan/PlanStation")).PlanStation })),
  proof: lazy(async () => ({ default: (await import("../stations/proof/ProofStation")).ProofStation })),
};

/** A job: the path on top, its stations, and the ledger. */
export function JobPage() {
  const { id, station } = useParams();
  if (station !== undefined && !isStation(station)) {
    return (
      <Refused message={`A job has no place called "${station}".`}>
        <Link
          className="text-teal mt-3 inline-block min-h-11 underline underline-offset-4"
          to={`/jobs/${id}`}
        >
          Open the job
        </Link>
      </Refused>
    );
  }
  return <JobOf key={id} id={Number(id)} station={station ?? "load"} />;
}

function JobOf({ id, station }: { id: number; station: Station }) {
  const work = useJob(id);
  if (work.missing) return <Refused message={work.missing.message} />;
  if (!work.job) return <p className="text-soft p-8">Opening the job …</p>;
  return <OpenJob id={id} station={station} work={work} job={work.job} />;
}

function Refused({ message, children }: { message: string; children?: ReactNode }) {
  return (
    <div className="p-8">
      <Complaint>{message}</Complaint>
      {children}
    </div>
  );
}

function OpenJob({ id, station, work, job }: { id: number; station: Station; work: Work; job: Job }) {
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  const [ledger, setLedger] = useState(false);
  const path = useRef<HTMLDivElement>(null);
  const [query] = useSearchParams();
  const { change, act } = work;
  const undo = () => act({ do: "undo" });
  const redo = () => act({ do: "redo" });
  const engine = job.basis.engine;
  const { played, play } = usePlaying(job, change);
  const name = STATIONS.find(([key]) => key === station)?.[1];
  useEffect(() => {
    document.title = `${name} · ${job.title} · Under Hood`;
  }, [name, job.title]);
  useGoTo();
  useKeys({
    ...Object.fromEntries(
      STATIONS.map(([key], i) => [String(i + 1), () => void navigate(`/jobs/${id}/${key}`)]),
    ),
    e: () => change("basis.engine", next(ENGINES, engine)),
    b: () => play(next(PLAYED, played)),
    s: () => openSum(),
    n: () => void navigate("/jobs/new"),
    r: () => void navigate(`/jobs/${id}/proof?at=reading`),
    z: undo,
    Z: redo,
    "Ctrl+z": undo,
    "Ctrl+Z": redo,
    "Ctrl+y": redo,
    "?": () => setHelp(true),
  });
  const { version, forecast, problem } = work;
  const open = { id, version, job, asked: work.asked ?? job, forecast, problem, change };
  const onItsWay = useOnItsWay();
  const oldHere = useLasting(work.old || onItsWay) || undefined;
  const old = work.old ? oldHere : undefined;
  const Place = PLACE[station];
  // A sheet that is printed takes the whole width.
  const sheet = station === "cable" && query.get("view") === "schedule";
  return (
    <WorkContext value={open}>
      <JobHeader work={work} job={job} played={played} onPlay={play} />
      <div className="print:hidden" ref={path} data-old={old}>
        <Region name="The path" again={work.forecast}>
          <PathStrip job={id} forecast={work.forecast} amplifiers={job.amplifiers?.length ?? 0} />
        </Region>
      </div>
      <StationNav
        id={id}
        station={station}
        work={work}
        onUndo={undo}
        onRedo={redo}
        onKeys={() => setHelp(true)}
      />
      {!sheet && (
        <KeyLine
          forecast={work.forecast}
          old={old}
          path={path}
          open={ledger}
          onToggle={() => setLedger(!ledger)}
        />
      )}
      {work.late && (
        <p role="status" className="text-vermilion px-5 pt-2">
          ▲ The figures are of before your last change: the server does not answer yet. It is asked again.
        </p>
      )}
      <RefusedNote problem={work.problem} station={station} />
      <div
        className={`grid max-lg:grid-cols-1 print:block ${sheet ? "grid-cols-1" : "grid-cols-[minmax(0,1fr)_256px]"}`}
      >
        <section className="min-w-0" aria-label={name} tabIndex={-1} data-landing data-old={oldHere}>
          <Region name="This station" again={station}>
            <Suspense fallback={<p className="text-soft px-5 py-4">Opening {name} …</p>}>
              <Place />
            </Suspense>
          </Region>
        </section>
        {!sheet && (
          <div className={ledger ? "max-lg:order-first" : "max-lg:hidden"} data-old={old}>
            <Region name="The ledger" again={work.forecast}>
              <Ledger settled={work.save === "clean"} />
            </Region>
          </div>
        )}
      </div>
      <KeysHelp open={help} onClose={() => setHelp(false)} />
    </WorkContext>
  );
}

/** Open the sum of the figure in focus, or of the first figure on the page. */
function openSum() {
  const focused = document.activeElement?.closest<HTMLElement>("[data-sum]");
  (focused ?? document.querySelector<HTMLElement>("[data-sum]"))?.click();
}
