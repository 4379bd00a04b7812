import { History, Keyboard, Printer, Redo2, Undo2 } from "lucide-react";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Link, NavLink } from "react-router";

import { Button } from "../ui/Button";
import { ExportLink } from "./ExportLink";
import { Revisions } from "./Revisions";
import { STATIONS, type Station } from "./stations";
import type { Work } from "./useJob";

interface Props {
  id: number;
  station: Station;
  work: Work;
  onUndo: () => void;
  onRedo: () => void;
  onKeys: () => void;
}

/** The stations of a job, and what can be done with all of it. */
export function StationNav({ id, station, work, onUndo, onRedo, onKeys }: Props) {
  const [earlier, setEarlier] = useState(false);
  const row = useRef<HTMLDivElement>(null);
  // On a phone not all stations are in view: the open one is.
  useEffect(() => {
    row.current?.querySelector("[aria-current]")?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [station]);
  return (
    <nav
      aria-label="Stations"
      className="border-rule flex items-stretch justify-between gap-1 border-y px-4 max-md:flex-wrap max-sm:px-2 print:hidden"
    >
      <div
        ref={row}
        className="flex h-12 min-w-0 items-stretch gap-1 overflow-x-auto max-lg:gap-0 max-md:w-full"
      >
        {STATIONS.map(([key, label], i) => (
          <NavLink
            key={key}
            to={`/jobs/${id}/${key}`}
            className={`flex min-w-11 items-center justify-center gap-1 border-b-3 px-4 max-xl:px-3 max-lg:px-2 max-sm:px-1 max-sm:text-sm ${key === station ? "border-copper bg-sunk font-bold" : "hover:bg-sunk border-transparent"}`}
          >
            <sup className="text-soft text-xs font-normal max-lg:hidden" aria-hidden>
              {i + 1}
            </sup>
            {label}
          </NavLink>
        ))}
      </div>
      <div className="flex h-12 shrink-0 items-center gap-1 max-md:h-11">
        <Tool label="Undo" disabled={!work.canUndo} onClick={onUndo} icon={<Undo2 size={16} aria-hidden />} />
        <Tool label="Redo" disabled={!work.canRedo} onClick={onRedo} icon={<Redo2 size={16} aria-hidden />} />
        <Tool label="Earlier" onClick={() => setEarlier(true)} icon={<History size={16} aria-hidden />} />
        <Link
          to={`/jobs/${id}/sheet`}
          className="hover:border-ink inline-flex h-11 min-w-11 items-center justify-center gap-2 rounded-sm border border-transparent px-3 font-medium"
        >
          <Printer size={16} aria-hidden />
          <span className="max-xl:sr-only">Job sheet</span>
        </Link>
        <ExportLink id={id} save={work.save} />
        <Tool
          label="Keys"
          className="max-lg:hidden"
          onClick={onKeys}
          icon={<Keyboard size={16} aria-hidden />}
        />
      </div>
      {earlier && <Revisions onClose={() => setEarlier(false)} />}
    </nav>
  );
}

interface ToolProps {
  label: string;
  icon: ReactNode;
  disabled?: boolean;
  className?: string;
  onClick: () => void;
}

function Tool({ label, icon, className = "", ...rest }: ToolProps) {
  return (
    <Button {...rest} className={`border-transparent bg-transparent px-3 ${className}`}>
      {icon}
      <span className="max-2xl:sr-only">{label}</span>
    </Button>
  );
}
