import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type PlanResult, type StageResult, type Swap } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, watts } from "../../ui/format";
import { moved, movedTo, skipped, swapped, type Stages } from "./stageOrder";
import { Select } from "../../ui/Select";

interface Props {
  plan: PlanResult;
  /** A person's own stages in place of the plan's. */
  onPlan: (plan: PlanResult) => void;
}

/**
 * A plan's stages in the order to fit them: moved by key or by hand, skipped, swapped, pinned; each change is solved at
 * once, and one that would leave an unsafe car says why. A stage opens as a job, or is fitted: the job moves on.
 */
export function Ladder({ plan, onPlan }: Props) {
  const { job, change } = useWork();
  const [dragged, setDragged] = useState<number | null>(null);
  const arrange = useMutation({
    mutationFn: async (stages: Stages) => {
      const body = { document: job, stages: stages.map((each) => [...each]) };
      return data(await api.POST("/api/v1/plan-stages", { body }));
    },
    onSuccess: onPlan,
  });
  const stages: Stages = plan.stages.map((each) => each.steps);
  const put = (next: Stages) => next !== stages && arrange.mutate(next);
  const pins = job.plan.pins ?? [];
  if (plan.steps.length === 0) return <p className="text-soft">Nothing has to be done.</p>;
  if (plan.stages.length === 0)
    return (
      <p className="text-soft">
        More steps than can be put in order. Pin the ones that matter and search again.
      </p>
    );
  return (
    <>
      {arrange.error && <Complaint>{arrange.error.message}</Complaint>}
      <ol className="space-y-3" aria-label="Stages" aria-busy={arrange.isPending}>
        {plan.stages.map((stage, i) => (
          <li
            key={stage.title}
            draggable
            onDragStart={() => setDragged(i)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => dragged !== null && put(movedTo(stages, dragged, i))}
            className="border-rule border-b pb-3"
          >
            <Stage
              number={i + 1}
              stage={stage}
              steps={plan.steps}
              pinned={stage.parts.length > 0 && stage.parts.every((part) => pins.includes(part))}
              onUp={i > 0 ? () => put(moved(stages, i, -1)) : undefined}
              onDown={i < stages.length - 1 ? () => put(moved(stages, i, 1)) : undefined}
              onSkip={() => put(skipped(stages, i))}
              onSwap={(old, title) => put(swapped(stages, old, title))}
              onPin={() => change("plan.pins", [...new Set([...pins, ...stage.parts])])}
              onNever={() => change("plan.never", [...new Set([...(job.plan.never ?? []), ...stage.parts])])}
            />
          </li>
        ))}
      </ol>
    </>
  );
}

interface StageProps {
  number: number;
  stage: StageResult;
  steps: string[];
  pinned: boolean;
  onUp: (() => void) | undefined;
  onDown: (() => void) | undefined;
  onSkip: () => void;
  onSwap: (old: string, title: string) => void;
  onPin: () => void;
  onNever: () => void;
}

function Stage({ number, stage, steps, pinned, onUp, onDown, onSkip, onSwap, onPin, onNever }: StageProps) {
  return (
    <div className="grid grid-cols-[2.5rem_minmax(0,1fr)_auto] items-start gap-3">
      <span className="figure text-copper text-2xl">{number}</span>
      <div>
        <p className="font-bold">{stage.title}</p>
        <p className="text-soft text-sm">
          {stage.buys.length > 0 && `Buy ${stage.buys.join(", ")}. `}
          {stage.removes.length > 0 && `Take out ${stage.removes.join(", ")}. `}
          {stage.hours > 0 && `${fixed(stage.hours, 1)} h.`}
        </p>
        <p className="mt-1">
          <Bought stage={stage} />
        </p>
        {stage.flags_lost.length > 0 && (
          <p className="text-moss text-sm">✓ no longer to act on: {words(stage.flags_lost)}</p>
        )}
        {stage.flags_gained.length > 0 && (
          <p className="text-vermilion text-sm">◆ to act on: {words(stage.flags_gained)}</p>
        )}
      </div>
      <p className="figure text-lg">{fixed(stage.cost, 0)}</p>
      <div className="col-span-3 flex flex-wrap gap-2">
        <Button aria-label={`Earlier: ${stage.title}`} disabled={!onUp} onClick={onUp}>
          ↑
        </Button>
        <Button aria-label={`Later: ${stage.title}`} disabled={!onDown} onClick={onDown}>
          ↓
        </Button>
        <Button onClick={onSkip}>Skip</Button>
        <Button disabled={pinned || stage.parts.length === 0} onClick={onPin}>
          {pinned ? "Pinned" : "Pin"}
        </Button>
        {stage.parts.length > 0 && <Button onClick={onNever}>Never use</Button>}
        <Swaps stage={stage} steps={steps} onSwap={onSwap} />
        <Moves number={number} stage={stage} />
      </div>
    </div>
  );
}

/** What a stage buys, in volts, watts and decibels, against the one before it. */
function Bought({ stage }: { stage: StageResult }) {
  return (
    <>
      {stage.terminal_v != null && <span className="figure text-teal">{fixed(stage.terminal_v, 2)} V</span>}
      {stage.volts_gained != null && ` (${signed(stage.volts_gained, 2)} V)`}
      {stage.delivered_w != null && (
        <>
          {" · "}
          <span className="figure text-copper">{watts(stage.delivered_w)} W</span>
        </>
      )}
      {stage.db_gained != null && ` · ${signed(stage.db_gained, 1)} dB`}
    </>
  );
}

/** What could take the place of a stage's first step; asked for when it is opened. */
function Swaps({
  stage,
  steps,
  onSwap,
}: {
  stage: StageResult;
  steps: string[];
  onSwap: (old: string, title: string) => void;
}) {
  const { job } = useWork();
  const old = stage.steps[0] ?? "";
  const ask = useMutation({
    mutationFn: async () =>
      data(await api.POST("/api/v1/plan-swaps", { body: { document: job, steps, title: old } })),
  });
  if (!ask.data)
    return (
      <>
        <Button disabled={ask.isPending} onClick={() => ask.mutate()}>
          {ask.isPending ? "Looking …" : "Swap"}
        </Button>
        {ask.error && <Complaint>{ask.error.message}</Complaint>}
      </>
    );
  return (
    <Select aria-label={`In place of ${old}`} value="" onChange={(event) => onSwap(old, event.target.value)}>
      <option value="">{ask.data.length > 0 ? "in its place …" : "nothing else fits here"}</option>
      {ask.data.map((each) => (
        <option key={each.title} value={each.title}>
          {swapWords(each)}
        </option>
      ))}
    </Select>
  );
}

function swapWords(swap: Swap): string {
  const told = [
    `${fixed(swap.cost, 0)}`,
    swap.terminal_v == null ? "" : `${fixed(swap.terminal_v, 2)} V`,
    swap.gain_db == null ? "" : `${signed(swap.gain_db, 1)} dB`,
    swap.safe ? "" : "brings something to act on",
  ];
  return `${swap.title}: ${told.filter(Boolean).join(", ")}`;
}

/** A stage as a job of its own, or fitted: the job moves on to it, and its history keeps what it was. */
function Moves({ number, stage }: { number: number; stage: StageResult }) {
  const { job, change } = useWork();
  const navigate = useNavigate();
  const open = useMutation({
    mutationFn: async () => {
      const document = {
        ...stage.job,
        title: `${stage.job.title ?? "Job"}, stage ${number}`.slice(0, 120),
        state: "planned" as const,
      };
      return data(await api.POST("/api/v1/jobs", { body: { document } }));
    },
    onSuccess: (made) => void navigate(`/jobs/${made.id}/plan`),
  });
  return (
    <>
      <Button disabled={open.isPending} onClick={() => open.mutate()}>
        Open as a job
      </Button>
      <Button onClick={() => change("", { ...stage.job, title: job.title, state: "fitted" })}>
        {number === 1 ? "Fitted" : `Fitted up to here`}
      </Button>
      {open.error && <Complaint>{open.error.message}</Complaint>}
    </>
  );
}

function signed(value: number, decimals: number): string {
  return `${value >= 0 ? "+" : ""}${fixed(value, decimals)}`;
}

function words(codes: string[]): string {
  return codes.map((each) => each.replaceAll("_", " ")).join(", ");
}
