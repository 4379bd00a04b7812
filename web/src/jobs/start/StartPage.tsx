import { useIsMutating, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { api, data, isRefusal, Problem, type Forecast, type Job } from "../../api/client";
import { setAt } from "../../api/quantity";
import { BroughtBack } from "../../drafts/BroughtBack";
import { forget } from "../../drafts/drafts";
import { useKept } from "../../drafts/useKept";
import { Ledger } from "../../job/Ledger";
import { useForecast } from "../../job/useForecast";
import { WorkContext } from "../../job/WorkContext";
import { PathStrip } from "../../path/PathStrip";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Region } from "../../ui/Region";
import { AmplifierQuestion, FROM_BENCH, KEPT } from "./AmplifierQuestion";
import { LoadQuestion } from "./LoadQuestion";
import { SupplyQuestion } from "./SupplyQuestion";
import { VehicleQuestion } from "./VehicleQuestion";

export interface Start {
  name: string;
  words: string;
  document: Job;
}

const KEY = "job:new";
const FIRST = "estate";

/** A new job in four questions; usual values stand in for what is not known, and the path is drawn as they are answered. */
export function StartPage() {
  const starts = useQuery({
    queryKey: ["job-starts"],
    queryFn: async () => data(await api.GET("/api/v1/job-starts")) as Start[],
    staleTime: Infinity,
  });
  useEffect(() => {
    document.title = "New job · Under Hood";
  }, []);
  if (starts.error)
    return (
      <div className="p-8">
        <Complaint>{starts.error.message}</Complaint>
        <Button className="mt-3" onClick={() => void starts.refetch()}>
          Try again
        </Button>
      </div>
    );
  const first = starts.data?.find((each) => each.name === FIRST) ?? starts.data?.[0];
  if (!starts.data || !first) return <p className="text-soft p-8">Getting ready …</p>;
  return <NewJob starts={starts.data} first={first} />;
}

function NewJob({ starts, first }: { starts: Start[]; first: Start }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [begun] = useState({ version: 0, document: first.document });
  const kept = useKept<Job>(KEY, begun);
  const job = kept.value;
  const forecast = useForecast(job);
  const [last, setLast] = useState<Forecast | null>(null);
  if (forecast.data && forecast.data !== last) setLast(forecast.data);
  const create = useMutation({
    mutationFn: async () => data(await api.POST("/api/v1/jobs", { body: { document: job } })),
    onSuccess: async ({ id }) => {
      // All of the form, also what was begun and did not come to anything: the next job starts from nothing.
      await Promise.all([KEY, ...Object.values(KEPT)].map(forget));
      void client.invalidateQueries({ queryKey: ["jobs"] });
      void navigate(`/jobs/${id}/load`, { replace: true });
    },
  });
  const refused = isRefusal(forecast.error) ? forecast.error : isRefusal(create.error) ? create.error : null;
  const { set } = kept;
  const open = useMemo(
    () => ({
      id: 0,
      version: 0,
      job,
      asked: job,
      forecast: last,
      problem: refused && new Problem(422, refused.reason, refused.field, null),
      change: (path: string, value: unknown) => set((latest) => setAt(latest, path, value)),
    }),
    [job, last, refused, set],
  );
  const busy = create.isPending || create.isSuccess;
  const waits = useIsMutating({ mutationKey: FROM_BENCH }) > 0;
  return (
    <WorkContext value={open}>
      <Region name="The path" again={last}>
        <PathStrip job={null} forecast={last} amplifiers={1} />
      </Region>
      <div className="border-rule grid grid-cols-[minmax(0,1fr)_256px] border-t max-lg:grid-cols-1">
        <form
          className="px-5 py-5"
          onSubmit={(event) => {
            event.preventDefault();
            create.mutate();
          }}
        >
          <h1 className="text-2xl font-bold">New job</h1>
          <p className="text-soft mb-4">
            Four questions. What is marked as assumed is usual for such a car: put in what you know, leave the
            rest.
          </p>
          <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
          <div className="grid grid-cols-2 gap-x-10 max-md:grid-cols-1">
            <VehicleQuestion starts={starts} />
            <SupplyQuestion />
            <AmplifierQuestion />
            <LoadQuestion />
          </div>
          {create.error && <Complaint>{create.error.message}</Complaint>}
          {forecast.error && !refused && <Complaint>{forecast.error.message}</Complaint>}
          <div className="mt-2 flex flex-wrap items-center gap-3">
            <Button strong type="submit" disabled={busy || waits}>
              {busy ? "Opening …" : "Open the job"}
            </Button>
            <Button onClick={() => void navigate("/jobs")}>Not now</Button>
            <span className="text-soft text-sm">Everything can be changed and refined in the job.</span>
          </div>
        </form>
        <Region name="The ledger" again={last}>
          <Ledger settled={forecast.isSuccess && !forecast.isPlaceholderData} />
        </Region>
      </div>
    </WorkContext>
  );
}
