import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { api, data, type Compared } from "../api/client";
import { JobAmplifierOptions } from "../job/JobAmplifierOptions";
import { loadOfJob } from "../job/loadOfJob";
import { Choice } from "../ui/Choice";
import { Complaint } from "../ui/Complaint";
import { fixed, plain, watts } from "../ui/format";
import { NumberBox } from "../ui/NumberBox";
import { Table } from "../ui/Table";
import { BenchNav } from "./BenchNav";
import { useAmplifierChoices } from "./useAmplifiers";
import { CRITERIA, type Criterion } from "./criteria";
import { Select } from "../ui/Select";

const MOST = 6;
const CRITERION_CHOICES = (["thd1", "clip", "burst"] as const).map(
  (key) => [key, CRITERIA[key].words] as const,
);

/** Two to six amplifiers under the same conditions, on a resistor and at the load the box shows. */
export function ComparePage() {
  const [address, setAddress] = useSearchParams();
  const chosen = (address.get("amplifiers") ?? "").split(",").filter(Boolean);
  const [at, setAt] = useState({ load_ohm: 2, supply_v: 14.4, rise: 1.8, power_factor: 0.85 });
  const [criterion, setCriterion] = useState<Criterion>("thd1");
  const [box, setBox] = useState("");
  const takeBox = async (place: string) => {
    setBox(place);
    const found = place ? await loadOfJob(place) : null;
    if (!found) return;
    const { load_ohm, rise, power_factor } = found;
    setAt((before) => ({ ...before, load_ohm, rise: round(rise), power_factor: round(power_factor) }));
  };
  const list = useAmplifierChoices();
  const entries = chosen.map((each) => ({
    amplifier_id: Number.parseInt(each),
    bridged: each.endsWith("b"),
  }));
  const answer = useQuery({
    queryKey: ["compare", chosen, at, criterion],
    queryFn: async () =>
      data(await api.POST("/api/v1/comparisons", { body: { amplifiers: entries, criterion, ...at } })),
    enabled: entries.length >= 2,
    placeholderData: keepPreviousData,
  });
  const choose = (next: string[]) => setAddress({ amplifiers: next.join(",") }, { replace: true });
  const toggle = (id: number) =>
    choose(
      chosen.some((each) => Number.parseInt(each) === id)
        ? chosen.filter((each) => Number.parseInt(each) !== id)
        : [...chosen, String(id)],
    );
  return (
    <>
      <BenchNav />
      <div className="px-8 py-5">
        <h1 className="mb-3 text-2xl font-bold">Compare</h1>
        <div role="group" aria-label="Amplifiers to compare" className="mb-4 flex flex-wrap gap-2">
          {list.data?.map((each) => {
            const entry = chosen.find((word) => Number.parseInt(word) === each.id);
            return (
              <span key={each.id} className="flex">
                <button
                  aria-pressed={entry !== undefined}
                  disabled={entry === undefined && chosen.length >= MOST}
                  onClick={() => toggle(each.id)}
                  className={`h-11 rounded-sm border px-3 disabled:opacity-45 ${entry ? "bg-ink text-sheet border-ink font-bold" : "bg-sheet border-rule hover:border-ink"}`}
                >
                  {each.name}
                </button>
                {entry && (each.summary?.channels ?? 1) > 1 && (
                  <button
                    aria-pressed={entry.endsWith("b")}
                    className={`border-ink -ml-px h-11 rounded-sm border px-2 text-sm ${entry.endsWith("b") ? "bg-sunk font-bold" : ""}`}
                    onClick={() =>
                      choose(chosen.map((word) => (word === entry ? toggledBridge(word) : word)))
                    }
                  >
                    bridged
                  </button>
                )}
              </span>
            );
          })}
        </div>
        <div className="mb-4 flex flex-wrap items-end gap-4">
          <NumberBox
            label="Nominal load"
            unit="Ω"
            value={at.load_ohm}
            onChange={(v) => setAt({ ...at, load_ohm: v })}
          />
          <NumberBox
            label="Supply"
            unit="V"
            value={at.supply_v}
            onChange={(v) => setAt({ ...at, supply_v: v })}
          />
          <NumberBox
            label="Impedance rise in the box"
            unit="×"
            value={at.rise}
            onChange={(v) => setAt({ ...at, rise: v })}
          />
          <NumberBox
            label="Power factor"
            value={at.power_factor}
            onChange={(v) => setAt({ ...at, power_factor: v })}
          />
          <label className="text-soft text-sm">
            As the box of
            <Select className="block w-48" value={box} onChange={(event) => void takeBox(event.target.value)}>
              <option value="">typed here</option>
              <JobAmplifierOptions label="A job's load at its tone" />
            </Select>
          </label>
          <Choice label="Criterion" value={criterion} options={CRITERION_CHOICES} onChange={setCriterion} />
        </div>
        {answer.error && <Complaint>{answer.error.message}</Complaint>}
        {entries.length < 2 && (
          <p className="text-soft">Choose two to six amplifiers. Decibels count from the first.</p>
        )}
        {entries.length >= 2 && answer.data && !answer.error && (
          <Answer rows={answer.data.compared} {...at} />
        )}
      </div>
    </>
  );
}

function round(value: number): number {
  return Number(value.toPrecision(3));
}

function toggledBridge(word: string): string {
  return word.endsWith("b") ? word.slice(0, -1) : `${word}b`;
}

function Answer({ rows, load_ohm, rise }: { rows: Compared[]; load_ohm: number; rise: number }) {
  const best = Math.max(...rows.map((each) => each.in_box.power_w));
  return (
    <>
      <Table
        label="Comparison"
        head={[
          "Amplifier",
          `On ${plain(load_ohm)} Ω`,
          "dB",
          `In the box, ${plain(load_ohm * rise)} Ω`,
          "dB",
          "Drawn",
          "Efficiency",
          "Heat",
          "Limited by",
          "Price per watt",
          "Lowest load",
          "Terminals",
        ]}
      >
        {rows.map((each) => (
          <tr key={`${each.name} ${each.bridged}`}>
            <td className="font-bold">
              {each.name}
              {each.bridged && <span className="font-normal">, bridged</span>}
            </td>
            <td className="figure">{watts(each.nominal.power_w)} W</td>
            <td className="figure">{fixed(each.nominal.db, 1)}</td>
            <td className={`figure text-copper text-lg ${each.in_box.power_w === best ? "font-bold" : ""}`}>
              {watts(each.in_box.power_w)} W
            </td>
            <td className="figure">{fixed(each.in_box.db, 1)}</td>
            <td className="figure">{fixed(each.in_box.supply_a, 0)} A</td>
            <td className="figure">{fixed(each.in_box.efficiency * 100, 0)} %</td>
            <td className="figure">{watts(each.in_box.heat_w)} W</td>
            <td className="text-sm">
              {each.in_box.limited_by === "power" ? "supply" : each.in_box.limited_by}
              {each.in_box.extrapolated && ", not measured so low"}
            </td>
            <td className="figure">
              {each.price_per_watt === null ? "–" : `${fixed(each.price_per_watt, 2)} ${each.currency ?? ""}`}
            </td>
            <td className={each.load_allowed ? "figure" : "text-vermilion whitespace-nowrap"}>
              {each.minimum_load_ohm === null
                ? "–"
                : `${each.load_allowed ? "" : "◆ "}${plain(each.minimum_load_ohm)} Ω${each.bridged ? " each" : ""}`}
            </td>
            <td className="whitespace-nowrap">{each.terminal_max ?? "–"}</td>
          </tr>
        ))}
      </Table>
      <ul className="text-soft mt-3 space-y-1 text-sm">
        <li>
          Watts are true watts; draw, efficiency, heat and price per watt are at the load in the box, the
          price over all channels. Decibels count from the first amplifier: three are twice the power.
        </li>
        {rows.flatMap((each) =>
          each.gaps.map((gap) => (
            <li key={each.name + gap}>
              {each.name}: {gap}.
            </li>
          )),
        )}
      </ul>
    </>
  );
}
