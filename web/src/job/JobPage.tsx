import { Keyboard, Redo2, Undo2 } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { Link, NavLink, useNavigate, useParams, useSearchParams } from "react-router";

import type { Engine, Job } from "../api/client";
import { PathStrip } from "../path/PathStrip";
import { AmplifiersStation } from "../stations/AmplifiersStation";
import { CableStation } from "../stations/cable/CableStation";
import { DrawStation } from "../stations/draw/DrawStation";
import { LoadStation } from "../stations/load/LoadStation";
import { PlanStation } from "../stations/plan/PlanStation";
import { SupplyStation } from "../stations/supply/SupplyStation";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { Complaint } from "../ui/Complaint";
import { Region } from "../ui/Region";
import { KeyLine } from "./KeyLine";
import { KeysHelp } from "./KeysHelp";
import { Ledger } from "./Ledger";
import { isStation, STATIONS, type Station } from "./stations";
import { ExportLink } from "./ExportLink";
import { SaveNote } from "./SaveNote";
import { useJob, type Work } from "./useJob";
import { useKeys } from "./useKeys";
import { WorkContext } from "./WorkContext";

const ENGINES = [
  ["off", "Off"],
  ["idle", "Idle"],
  ["cruise", "Cruise"],
] as const;
const PLAYED = [
  ["tone", "Tone"],
  ["burst", "Burst"],
  ["music", "Music"],
] as const;
type Played = (typeof PLAYED)[number][0];
const PLACE = {
  load: LoadStation,
  amplifiers: AmplifiersStation,
  draw: DrawStation,
  supply: SupplyStation,
  cable: CableStation,
  plan: PlanStation,
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

/** The music that was chosen last, which is what "Music" goes back to. */
function useMusic(programme: Job["basis"]["programme"]): Job["basis"]["programme"] {
  const [last, setLast] = useState<Job["basis"]["programme"]>("bass_heavy");
  if (programme !== last && programme !== "tone" && programme !== "burst") setLast(programme);
  return last;
}

function playedOf(job: Job): Played {
  const programme = job.basis.programme;
  return programme === "tone" || programme === "burst" ? programme : "music";
}

function OpenJob({ id, station, work, job }: { id: number; station: Station; work: Work; job: Job }) {
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  const [ledger, setLedger] = useState(false);
  const path = useRef<HTMLDivElement>(null);
  const [query] = useSearchParams();
  const { change, act } = work;
  const undo = useCallback(() => act({ do: "undo" }), [act]);
  const redo = useCallback(() => act({ do: "redo" }), [act]);
  const engine = job.basis.engine as Engine;
  const played = playedOf(job);
  const music = useMusic(job.basis.programme);
  const play = useCallback(
    (what: Played) => change("basis.programme", what === "music" ? music : what),
    [change, music],
  );
  const name = STATIONS.find(([key]) => key === station)?.[1];
  useEffect(() => {
    document.title = `${name} · ${job.title} · Under Hood`;
  }, [name, job.title]);
  const toCable = useCallback(
    (name: string) => void navigate(`/jobs/${id}/cable?cable=${encodeURIComponent(name)}`),
    [navigate, id],
  );
  const keys = useMemo(() => {
    return {
      ...Object.fromEntries(
        STATIONS.map(([key], i) => [String(i + 1), () => void navigate(`/jobs/${id}/${key}`)]),
      ),
      e: () => change("basis.engine", next(ENGINES, engine)),
      b: () => play(next(PLAYED, played)),
      s: () => openSum(),
      z: undo,
      Z: redo,
      "?": () => setHelp(true),
    };
  }, [change, play, engine, played, undo, redo, navigate, id]);
  useKeys(keys);
  const open = useMemo(
    () => ({
      id,
      version: work.version,
      job,
      forecast: work.forecast,
      fresh: work.fresh,
      problem: work.problem,
      change,
    }),
    [id, work.version, job, work.forecast, work.fresh, work.problem, change],
  );
  const Place = PLACE[station];
  // A sheet that is printed takes the whole width.
  const sheet = station === "cable" && query.get("view") === "schedule";
  return (
    <WorkContext value={open}>
      <header className="border-rule flex print:hidden flex-wrap items-center justify-between gap-x-6 gap-y-2 border-b px-5 py-1.5">
        <div className="flex min-w-0 flex-wrap items-baseline gap-x-4">
          <h1>
            <input
              aria-label="Title of the job"
              className="hover:border-rule focus:bg-sheet h-11 rounded-sm border border-transparent bg-transparent px-1 text-xl font-bold max-w-full"
              size={Math.max(job.title.length, 12)}
              value={job.title}
              onChange={(event) => change("title", event.target.value)}
            />
          </h1>
          <SaveNote work={work} />
        </div>
        <div className="flex flex-wrap items-center gap-4">
          <Choice
            label="Engine"
            value={engine}
            options={ENGINES}
            onChange={(value) => change("basis.engine", value)}
          />
          <Choice label="Playing" value={played} options={PLAYED} onChange={play} />
        </div>
      </header>
      <div className="print:hidden" ref={path}>
        <Region name="The path" again={work.forecast}>
          <PathStrip forecast={work.forecast} onCable={toCable} />
        </Region>
      </div>
      <nav
        aria-label="Stations"
        className="border-rule flex items-stretch justify-between gap-1 border-y px-4 max-md:flex-wrap print:hidden"
      >
        <div className="flex h-12 min-w-0 items-stretch gap-1 overflow-x-auto max-md:w-full">
          {STATIONS.map(([key, label], i) => (
            <NavLink
              key={key}
              to={`/jobs/${id}/${key}`}
              className={`flex items-center gap-1 border-b-3 px-4 max-lg:px-2.5 ${key === station ? "border-copper bg-sunk font-bold" : "hover:bg-sunk border-transparent"}`}
            >
              <sup className="text-soft text-[10px] font-normal">{i + 1}</sup>
              {label}
            </NavLink>
          ))}
        </div>
        <div className="flex h-12 shrink-0 items-center gap-1 max-md:h-11">
          <Tool label="Undo" disabled={!work.canUndo} onClick={undo} icon={<Undo2 size={16} aria-hidden />} />
          <Tool label="Redo" disabled={!work.canRedo} onClick={redo} icon={<Redo2 size={16} aria-hidden />} />
          <ExportLink id={id} save={work.save} />
          <Tool label="Keys" onClick={() => setHelp(true)} icon={<Keyboard size={16} aria-hidden />} />
        </div>
      </nav>
      {!sheet && (
        <KeyLine forecast={work.forecast} path={path} open={ledger} onToggle={() => setLedger(!ledger)} />
      )}
      {work.late && (
        <p role="status" className="text-vermilion px-5 pt-2">
          ▲ The figures are of before your last change: the server does not answer yet. It is asked again.
        </p>
      )}
      {work.problem && <div className="px-5">{<Complaint>{work.problem.message}</Complaint>}</div>}
      <div
        className={`grid max-lg:grid-cols-1 print:block ${sheet ? "grid-cols-1" : "grid-cols-[minmax(0,1fr)_256px]"}`}
      >
        <section className="min-w-0" aria-label={name}>
          <Region name="This station" again={station}>
            <Place />
          </Region>
        </section>
        {!sheet && (
          <div className={ledger ? "max-lg:order-first" : "max-lg:hidden"}>
            <Region name="The ledger" again={work.forecast}>
              <Ledger id={id} settled={work.save === "clean"} />
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

function next<T extends string>(options: readonly (readonly [T, string])[], value: T): T {
  const at = options.findIndex(([key]) => key === value);
  return (options[(at + 1) % options.length] ?? options[0])?.[0] ?? value;
}

function Tool({
  label,
  icon,
  ...rest
}: {
  label: string;
  icon: React.ReactNode;
  disabled?: boolean;
  onClick: () => void;
}) {
  return (
    <Button {...rest} className="border-transparent bg-transparent px-3">
      {icon}
      <span className="max-lg:sr-only">{label}</span>
    </Button>
  );
}
