import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, data, type PlanResult, type StageResult } from "../../api/client";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, watts } from "../../ui/format";

/** A plan's stages in the order to fit them; each can be opened as a job of its own. */
export function Ladder({ plan }: { plan: PlanResult }) {
  if (plan.steps.length === 0) return <p className="text-soft">Nothing has to be done.</p>;
  return (
    <ol className="space-y-3" aria-label="Stages">
      {plan.stages.map((stage, i) => (
        <Stage key={stage.title} number={i + 1} stage={stage} />
      ))}
    </ol>
  );
}

function Stage({ number, stage }: { number: number; stage: StageResult }) {
  const navigate = useNavigate();
  const open = useMutation({
    mutationFn: async () => {
      const document = { ...stage.job, title: `${stage.job.title ?? "Job"}, stage ${number}`.slice(0, 120) };
      return data(await api.POST("/api/v1/jobs", { body: { document } }));
    },
    onSuccess: (made) => void navigate(`/jobs/${made.id}/plan`),
  });
  return (
    <li className="border-rule grid grid-cols-[2.5rem_minmax(0,1fr)_auto] items-start gap-3 border-b pb-3">
      <span className="figure text-copper text-2xl">{number}</span>
      <div>
        <p className="font-bold">{stage.title}</p>
        <p className="text-soft text-sm">
          {stage.buys.length > 0 && `Buy ${stage.buys.join(", ")}. `}
          {stage.removes.length > 0 && `Take out ${stage.removes.join(", ")}. `}
          {stage.hours > 0 && `${fixed(stage.hours, 1)} h.`}
        </p>
        <p className="mt-1">
          {stage.terminal_v != null && (
            <span className="figure text-teal">{fixed(stage.terminal_v, 2)} V</span>
          )}
          {stage.volts_gained != null && ` (${signed(stage.volts_gained, 2)} V)`}
          {stage.delivered_w != null && (
            <>
              {" · "}
              <span className="figure text-copper">{watts(stage.delivered_w)} W</span>
            </>
          )}
          {stage.db_gained != null && ` · ${signed(stage.db_gained, 1)} dB`}
        </p>
        {stage.flags_lost.length > 0 && (
          <p className="text-moss text-sm">✓ no longer to act on: {words(stage.flags_lost)}</p>
        )}
        {open.error && <Complaint>{open.error.message}</Complaint>}
      </div>
      <div className="text-right">
        <p className="figure text-lg">{fixed(stage.cost, 0)}</p>
        <Button disabled={open.isPending} onClick={() => open.mutate()}>
          Open as a job
        </Button>
      </div>
    </li>
  );
}

function signed(value: number, decimals: number): string {
  return `${value >= 0 ? "+" : ""}${fixed(value, decimals)}`;
}

function words(codes: string[]): string {
  return codes.map((each) => each.replaceAll("_", " ")).join(", ");
}
