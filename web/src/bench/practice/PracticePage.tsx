import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useSearchParams } from "react-router";

import { api, data, type BenchOut } from "../../api/client";
import { useView } from "../../job/useView";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Select } from "../../ui/Select";
import { Tabs } from "../../ui/Tabs";
import { BenchNav } from "../BenchNav";
import { useAmplifierChoices } from "../useAmplifiers";
import { Bench } from "./Bench";
import { ExerciseAnswer } from "./ExerciseAnswer";

const VIEWS = [
  ["bench", "Measure an amplifier"],
  ["exercises", "Exercises"],
] as const;

/** A bench on which nothing can break: to learn the work, and to make a sheet as it is made on a real one. */
export function PracticePage() {
  const [view, setView] = useView("view", VIEWS, "bench");
  useEffect(() => {
    document.title = "Practice · Bench · Under Hood";
  }, []);
  return (
    <>
      <BenchNav />
      <div className="px-6 py-4">
        <h1 className="text-2xl font-bold">Practice bench</h1>
        <p className="text-soft mb-3 max-w-3xl">
          A simulation: the amplifier behaves as its sheet says, the rest of the bench is invented. Nothing
          here can break.
        </p>
        <Tabs label="Parts of the practice" value={view} options={VIEWS} onChange={setView}>
          {view === "bench" ? <FreeBench /> : <ExerciseBench />}
        </Tabs>
      </div>
    </>
  );
}

function useBench() {
  return useMutation({
    mutationFn: async (body: { amplifier?: number; exercise?: string }): Promise<BenchOut> =>
      data(await api.POST("/api/v1/benches", { body })),
  });
}

function FreeBench() {
  const amplifiers = useAmplifierChoices();
  const bench = useBench();
  const [chosen, choose] = useChosenAmplifier();
  const items = amplifiers.data ?? [];
  const picked = items.find((each) => each.id === chosen) ?? items[0];
  const { mutate } = bench;
  const id = picked?.id;
  useEffect(() => {
    if (id !== undefined) mutate({ amplifier: id });
  }, [id, mutate]);
  if (amplifiers.error) return <Complaint>{amplifiers.error.message}</Complaint>;
  if (!amplifiers.data) return <p className="text-soft py-4">Looking at the book …</p>;
  if (!picked)
    return (
      <p className="py-3">The bench book is empty: enter an amplifier first, or begin with an exercise.</p>
    );
  return (
    <>
      <label className="mb-3 block">
        On the bench{" "}
        <Select value={picked.id} onChange={(event) => choose(Number(event.target.value))}>
          {items.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </Select>
      </label>
      {bench.error && <Complaint>{bench.error.message}</Complaint>}
      {bench.data && (
        <Bench
          key={bench.data.key}
          bench={bench.data}
          amplifier={picked}
          onGone={() => mutate({ amplifier: picked.id })}
        />
      )}
    </>
  );
}

/** The amplifier that the address has. */
function useChosenAmplifier(): [number | null, (id: number) => void] {
  const [query, setQuery] = useSearchParams();
  const asked = query.get("amplifier");
  const choose = (id: number) =>
    setQuery(
      (before) => {
        const now = new URLSearchParams(before);
        now.set("amplifier", String(id));
        return now;
      },
      { replace: true },
    );
  return [asked === null ? null : Number(asked), choose];
}

function ExerciseBench() {
  const told = useQuery({
    queryKey: ["practice-exercises"],
    queryFn: async () => data(await api.GET("/api/v1/practice-exercises")),
    staleTime: Infinity,
  });
  const bench = useBench();
  if (told.error) return <Complaint>{told.error.message}</Complaint>;
  if (!told.data) return <p className="text-soft py-4">Opening the exercises …</p>;
  const { exercises, faults } = told.data;
  const open = exercises.find((each) => each.key === bench.variables?.exercise);
  return (
    <div className="grid grid-cols-[260px_minmax(0,1fr)] gap-6 max-lg:grid-cols-1">
      <ol aria-label="Exercises" className="space-y-1">
        {exercises.map((each, i) => (
          <li key={each.key}>
            <button
              className={`flex min-h-11 w-full items-center gap-2 px-2 text-left ${each === open ? "bg-sunk font-bold" : "hover:bg-sunk"}`}
              aria-current={each === open}
              onClick={() => bench.mutate({ exercise: each.key })}
            >
              <span className="text-soft figure w-6">{i + 1}</span> {each.title}
            </button>
          </li>
        ))}
      </ol>
      <div>
        {bench.error && <Complaint>{bench.error.message}</Complaint>}
        {!open && <p>Choose an exercise: something may be wrong with its bench. Find out what.</p>}
        {open && bench.data && (
          <>
            <h2>{open.title}</h2>
            <p className="mb-3">{open.task}</p>
            <Bench
              key={bench.data.key}
              bench={bench.data}
              amplifier={null}
              onGone={() => bench.mutate({ exercise: open.key })}
            />
            <ExerciseAnswer key={open.key} exercise={open.key} faults={faults} />
            <Button className="mt-2" onClick={() => bench.mutate({ exercise: open.key })}>
              Begin it again
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
