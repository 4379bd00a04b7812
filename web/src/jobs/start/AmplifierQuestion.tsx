import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, data, isRefusal, type Amplifier, type AmplifierRecord } from "../../api/client";
import { originOf } from "../../api/quantity";
import { useAmplifierChoices } from "../../bench/useAmplifiers";
import { useKept } from "../../drafts/useKept";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FigureInput } from "../../ui/FigureInput";
import { Input } from "../../ui/Input";
import { toNumber } from "../../ui/number";
import { Select } from "../../ui/Select";
import { Question } from "./Question";

type Load = NonNullable<Amplifier["load"]>;

/** What is on its way from the bench: a job is not opened without it. */
export const FROM_BENCH = ["start", "from the bench"];
/** Names of what this browser keeps of the question until it is answered. */
export const KEPT = { chosen: "job:new from the bench", claim: "job:new claim" } as const;
const NOTHING = { version: 0, document: { id: "" } };
const EMPTY = { version: 0, document: { name: "", power_w: "", load_ohm: "", supply_v: "14.4" } };

/** An amplifier from the bench, or what somebody claims of one that nobody has measured. */
export function AmplifierQuestion() {
  const { job, change } = useWork();
  // Kept until it is here, so that neither a reload nor a slow line loses it.
  const chosen = useKept(KEPT.chosen, NOTHING);
  const list = useAmplifierChoices();
  const take = useMutation({
    mutationKey: FROM_BENCH,
    mutationFn: async (id: number) => {
      const params = { path: { amplifier_id: id } };
      return data(await api.GET("/api/v1/amplifiers/{amplifier_id}/job-amplifier", { params }));
    },
    onSuccess: (amplifier) => {
      fit(amplifier);
      chosen.throwAway();
    },
    // A line that breaks, as a reload breaks it, is no answer: the choice stays for the next try.
    onError: (error) => isRefusal(error) && chosen.throwAway(),
  });
  const { id } = chosen.value;
  const { mutate } = take;
  useEffect(() => {
    if (id) mutate(Number(id));
  }, [id, mutate]);
  const amplifier = job.amplifiers[0];
  const [another, setAnother] = useState(false);
  const fit = (next: Amplifier) => {
    // What was said of the drivers and their box stays; how they are wired is another amplifier's matter.
    const said =
      amplifier?.load && !isUsual(amplifier.load) ? { ...amplifier.load, wiring: null } : next.load;
    change("amplifiers", [{ ...next, load: said }]);
    setAnother(false);
  };
  return (
    <Question number={3} title="The amplifier">
      {amplifier && !another ? (
        <p className="border-rule flex flex-wrap items-center justify-between gap-2 border-b py-1">
          <span>
            <b>{amplifier.name}</b>
            <span className="text-soft block text-sm">{amplifier.came_from}</span>
          </span>
          <Button onClick={() => setAnother(true)}>Another one</Button>
        </p>
      ) : (
        <>
          <label className="text-soft block text-sm" htmlFor="start-amplifier">
            From the bench
          </label>
          <Select
            id="start-amplifier"
            className="w-full"
            value={id}
            disabled={take.isPending}
            onChange={(event) => chosen.set({ id: event.target.value })}
          >
            <option value="">
              {list.data?.length === 0 ? "the bench is empty" : "choose one that was measured"}
            </option>
            {list.data?.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </Select>
          {(take.error ?? list.error) && <Complaint>{(take.error ?? list.error)?.message}</Complaint>}
          {take.isError && id && (
            <Button className="mt-2" onClick={() => mutate(Number(id))}>
              Try again
            </Button>
          )}
          <Claimed onTake={fit} />
          {amplifier && (
            <Button className="mt-2" onClick={() => setAnother(false)}>
              Keep {amplifier.name}
            </Button>
          )}
        </>
      )}
    </Question>
  );
}

/** Whether nobody has said anything of a load yet: all of it is as it came with its amplifier. */
function isUsual(load: Load): boolean {
  const counts = [load.drivers, load.coils_per_driver, load.coil_ohm];
  return counts.every((each) => originOf(each) === "assumed") && !load.driver && !load.box && !load.sweep;
}

/** What stands on the box or in the manual: taken as a claim, with a band as wide as claims are wrong. */
function Claimed({ onTake }: { onTake: (amplifier: Amplifier) => void }) {
  const { value: text, set, throwAway } = useKept(KEPT.claim, EMPTY);
  const number = (key: "power_w" | "load_ohm" | "supply_v") => toNumber(text[key]);
  const take = useMutation({
    mutationFn: async () => {
      const [power_w, load_ohm, supply_v] = [number("power_w"), number("load_ohm"), number("supply_v")];
      const claims = [{ power_w, load_ohm, supply_v, kind: "box" as const }];
      const record = { name: text.name.trim() || "Amplifier not measured" } as AmplifierRecord;
      return data(await api.POST("/api/v1/job-amplifiers", { body: { record, claims } }));
    },
    onSuccess: (amplifier) => {
      onTake(amplifier);
      throwAway();
    },
  });
  const ready = (["power_w", "load_ohm", "supply_v"] as const).every((key) => number(key) > 0);
  return (
    <>
      <p className="mt-3">Not measured? What does it claim?</p>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <label className="text-soft text-sm">
          Name
          <Input
            className="block w-40"
            value={text.name}
            onChange={(event) => set({ ...text, name: event.target.value })}
          />
        </label>
        <FigureInput
          label="Watts"
          width="w-20"
          value={text.power_w}
          onChange={(power_w) => set({ ...text, power_w })}
        />
        <FigureInput
          label="into Ω"
          width="w-16"
          value={text.load_ohm}
          onChange={(load_ohm) => set({ ...text, load_ohm })}
        />
        <FigureInput
          label="at V"
          width="w-16"
          value={text.supply_v}
          onChange={(supply_v) => set({ ...text, supply_v })}
        />
        <Button disabled={!ready || take.isPending} onClick={() => take.mutate()}>
          Take the claim
        </Button>
      </div>
      {take.error && <Complaint>{take.error.message}</Complaint>}
    </>
  );
}
