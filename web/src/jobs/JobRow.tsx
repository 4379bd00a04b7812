import { Archive, ArchiveRestore, Copy, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";

import type { JobLine } from "../api/client";
import { fixed, watts } from "../ui/format";
import { SeverityMark } from "../ui/SeverityMark";
import { STATE_WORDS } from "./states";
import { moment } from "../ui/moments";

interface Props {
  job: JobLine;
  busy: boolean;
  onTag: (tag: string) => void;
  onCopy: () => void;
  onArchive: () => void;
  onRemove: () => void;
}

/** A job with its verdict: what it was found to be, for whom, and how far the work is. */
export function JobRow({ job, busy, onTag, onCopy, onArchive, onRemove }: Props) {
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
        {summary && <About summary={summary} onTag={onTag} />}
        {summary && (
          <span className="block text-sm lg:hidden">
            <span className="figure text-teal">
              {summary.idle_v === null ? "" : `${fixed(summary.idle_v, 2)} V`}
            </span>{" "}
            <span className="figure">
              {summary.delivered_w === null ? "" : `${watts(summary.delivered_w, summary.half_band_w)} W`}
            </span>{" "}
            <WorstFlag summary={summary} /> <span className="text-soft">· {STATE_WORDS[summary.state]}</span>
          </span>
        )}
      </td>
      {summary ? (
        <>
          <td className="figure text-teal whitespace-nowrap max-lg:hidden">
            {summary.idle_v === null ? "–" : `${fixed(summary.idle_v, 2)} V`}
          </td>
          <td className="figure whitespace-nowrap max-lg:hidden">
            {summary.delivered_w === null ? "–" : `${watts(summary.delivered_w, summary.half_band_w)} W`}
          </td>
          <td className="text-left! text-sm max-lg:hidden">
            <WorstFlag summary={summary} />
          </td>
          <td className="text-sm whitespace-nowrap max-lg:hidden">{STATE_WORDS[summary.state]}</td>
        </>
      ) : (
        <td colSpan={4} className="text-ochre text-left! text-sm">
          ▲ {job.problem}
        </td>
      )}
      <td className="text-sm whitespace-nowrap max-lg:hidden">
        {moment(job.updated_at)}
        <span className="text-soft block">revision {job.version}</span>
      </td>
      <td className="whitespace-nowrap max-sm:whitespace-normal">
        <Tool label={`Copy ${job.title}`} disabled={busy} onClick={onCopy}>
          <Copy size={16} aria-hidden />
        </Tool>
        <Tool
          label={job.archived ? `Take ${job.title} out of the archive` : `Archive ${job.title}`}
          disabled={busy}
          onClick={onArchive}
        >
          {job.archived ? <ArchiveRestore size={16} aria-hidden /> : <Archive size={16} aria-hidden />}
        </Tool>
        <Tool label={`Delete ${job.title}`} onClick={onRemove}>
          <Trash2 size={16} aria-hidden />
        </Tool>
      </td>
    </tr>
  );
}

type Summary = NonNullable<JobLine["summary"]>;

function About({ summary, onTag }: { summary: Summary; onTag: (tag: string) => void }) {
  const who = [summary.customer, summary.plate].filter(Boolean).join(" · ");
  return (
    <>
      {who && <span className="block text-sm">{who}</span>}
      <span className="text-soft block text-sm">{summary.amplifiers.join(", ") || "no amplifier yet"}</span>
      {summary.tags.length > 0 && (
        <span className="-ml-1 flex flex-wrap">
          {summary.tags.map((tag) => (
            <button
              key={tag}
              className="text-teal min-h-11 min-w-11 px-1 text-left text-sm underline underline-offset-4"
              aria-label={`Only jobs tagged ${tag}`}
              onClick={() => onTag(tag)}
            >
              {tag}
            </button>
          ))}
        </span>
      )}
    </>
  );
}

function Tool({
  label,
  children,
  ...rest
}: {
  label: string;
  children: ReactNode;
  disabled?: boolean;
  onClick: () => void;
}) {
  return (
    <button
      type="button"
      className="hover:border-ink inline-grid size-11 place-items-center rounded-sm border border-transparent disabled:opacity-45"
      aria-label={label}
      title={label}
      {...rest}
    >
      {children}
    </button>
  );
}

function WorstFlag({ summary }: { summary: Summary }) {
  if (summary.worst === null)
    return (
      <span className="text-soft">
        {summary.amplifiers.length > 0 ? "nothing flagged" : "not checked yet"}
      </span>
    );
  return (
    <>
      <SeverityMark severity={summary.worst} /> {summary.worst_title}
    </>
  );
}
