import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type BankAtWork } from "../../api/client";
import { Button } from "../../ui/Button";
import { CautionList } from "../../ui/CautionList";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain, watts } from "../../ui/format";
import { NumberBox } from "../../ui/NumberBox";
import { LeftHead, Table } from "../../ui/Table";
import { BenchNav } from "../BenchNav";
import { useAmplifierChoices } from "../useAmplifiers";
import { BankDrawing } from "./BankDrawing";
import { Select } from "../../ui/Select";
import { RemoveButton } from "../../ui/RemoveButton";

const KEPT = "under-hood-resistors";
const USUAL = [8, 6, 4, 3, 2, 1.5, 1, 0.75, 0.5];

interface Stock {
  ohm: number;
  watts: number;
  count: number;
}

/** Test loads from the resistors on the shelf: what can be made, how the watts are shared, how long it lasts. */
export function ResistorBankPage() {
  const [stock, setStock] = useState<Stock[]>(storedStock);
  const [amplifier, setAmplifier] = useState<number | null>(null);
  const [expected, setExpected] = useState(500);
  const [duty, setDuty] = useState({ share: 0.1, lead_ohm: 0.01, time_constant_s: 60 });
  const [chosen, setChosen] = useState<number | null>(null);
  const [all, setAll] = useState(false);
  const amplifiers = useAmplifierChoices();
  const body = {
    resistors: stock,
    duty,
    amplifier_id: amplifier,
    expected_w: amplifier === null ? expected : null,
  };
  const answer = useQuery({
    queryKey: ["resistor-bank", body],
    queryFn: async () => data(await api.POST("/api/v1/resistor-banks", { body })),
    placeholderData: keepPreviousData,
  });
  const change = (next: Stock[]) => {
    setStock(next);
    localStorage.setItem(KEPT, JSON.stringify(next));
  };
  const loads = answer.data?.loads ?? [];
  const shown = all ? loads : nearestTo(USUAL, loads);
  const drawn =
    shown.find((each) => each.load_ohm === chosen) ?? shown.find((each) => each.load_ohm <= 2.01) ?? shown[0];
  return (
    <>
      <BenchNav />
      <div className="px-8 py-5">
        <h1 className="mb-3 text-2xl font-bold">Resistor bank</h1>
        <div className="grid grid-cols-[330px_minmax(0,1fr)] gap-8 max-md:grid-cols-1">
          <div>
            <h2>On the shelf</h2>
            {stock.map((each, i) => (
              <div key={i} className="mt-2 flex items-end gap-2">
                <NumberBox
                  label="Each"
                  unit="Ω"
                  width="w-20"
                  value={each.ohm}
                  onChange={(ohm) => change(put(stock, i, { ohm }))}
                />
                <NumberBox
                  label="Rated"
                  unit="W"
                  width="w-20"
                  value={each.watts}
                  onChange={(w) => change(put(stock, i, { watts: w }))}
                />
                <NumberBox
                  label="Pieces"
                  width="w-16"
                  value={each.count}
                  onChange={(count) => change(put(stock, i, { count }))}
                />
                <RemoveButton
                  label={`Remove ${plain(each.ohm)} Ω resistors`}
                  disabled={stock.length === 1}
                  onClick={() => change(stock.filter((_, n) => n !== i))}
                />
              </div>
            ))}
            <Button
              className="mt-2"
              disabled={stock.length >= 5}
              onClick={() => change([...stock, { ohm: 4, watts: 100, count: 4 }])}
            >
              Another kind
            </Button>
            <h2 className="mt-5">Watts to expect</h2>
            <label className="text-soft mt-1 block text-sm">
              Of an amplifier, at clipping
              <Select
                className="block w-full"
                value={amplifier ?? ""}
                onChange={(event) => setAmplifier(event.target.value ? Number(event.target.value) : null)}
              >
                <option value="">the same at every load</option>
                {amplifiers.data
                  ?.filter((each) => (each.summary?.runs ?? 0) > 0)
                  .map((each) => (
                    <option key={each.id} value={each.id}>
                      {each.name}
                    </option>
                  ))}
              </Select>
            </label>
            <div className="mt-2 flex flex-wrap gap-2">
              {amplifier === null && (
                <NumberBox label="Expected" unit="W" value={expected} onChange={setExpected} />
              )}
              <NumberBox
                label="On, of the time"
                unit="%"
                value={duty.share * 100}
                onChange={(p) => setDuty({ ...duty, share: p / 100 })}
              />
              <NumberBox
                label="Leads"
                unit="mΩ"
                value={duty.lead_ohm * 1000}
                onChange={(m) => setDuty({ ...duty, lead_ohm: m / 1000 })}
              />
              <NumberBox
                label="Warms up in"
                unit="s"
                value={duty.time_constant_s}
                onChange={(s) => setDuty({ ...duty, time_constant_s: s })}
              />
            </div>
            <p className="text-soft mt-2 text-sm">
              Seconds on are an estimate: one thermal time constant, usual for a housed resistor on a metal
              plate. Its maker&rsquo;s pulse curve comes first.
            </p>
            <CautionList cautions={answer.data?.cautions ?? []} />
          </div>
          <div className="min-w-0">
            {answer.error && <Complaint>{answer.error.message}</Complaint>}
            {drawn && <Chosen bank={drawn} />}
            <div className="mt-4 mb-1 flex items-center justify-between">
              <h2>{all ? `All ${loads.length} loads` : "Nearest to the usual loads"}</h2>
              <Button onClick={() => setAll(!all)}>
                {all ? "The usual loads" : `All ${loads.length} loads`}
              </Button>
            </div>
            <Table
              label="Loads"
              head={[
                "Load",
                <LeftHead key="made">Made of</LeftHead>,
                "Pieces",
                "Expected",
                "Worst one bears",
                "On, then off",
              ]}
            >
              {shown.map((each) => (
                <tr key={each.load_ohm} className={each === drawn ? "bg-sunk font-bold" : ""}>
                  <td>
                    <button
                      aria-pressed={each === drawn}
                      className="figure min-h-11 min-w-11 text-left underline-offset-4 hover:underline"
                      onClick={() => setChosen(each.load_ohm)}
                    >
                      {plain(each.load_ohm)} Ω
                    </button>
                  </td>
                  <td className="min-w-40 text-left! text-sm">{each.words}</td>
                  <td className="figure">{each.pieces}</td>
                  <td className="figure">{watts(each.expected_w)} W</td>
                  <td className={`figure ${each.overload > 1 ? "text-ochre" : "text-moss"}`}>
                    {fixed(each.overload, 1)} × its rating
                  </td>
                  <td className="text-sm whitespace-nowrap">{times(each)}</td>
                </tr>
              ))}
            </Table>
          </div>
        </div>
      </div>
    </>
  );
}

function Chosen({ bank }: { bank: BankAtWork }) {
  return (
    <section aria-label="The chosen load" className="border-rule bg-sheet border p-4">
      <h2 className="text-lg">
        {plain(bank.load_ohm)} Ω: {bank.words}
      </h2>
      <p className="text-soft text-sm">
        With its leads {plain(bank.with_leads_ohm)} Ω; they take {fixed(bank.lead_share * 100, 1)} % of the
        watts.
        {bank.groups.map(
          (group) =>
            ` Each ${plain(group.ohm_each)} Ω bears ${watts(group.watts_of_each)} W of its ${plain(group.watts_each)} W.`,
        )}{" "}
        {times(bank)}.
      </p>
      <div className="mt-2">
        <BankDrawing bank={bank} />
      </div>
    </section>
  );
}

function times({ on_s, off_s, advice }: BankAtWork): string {
  if (on_s === null || off_s === null || on_s === 0) return advice;
  return `${on_s < 1 ? fixed(on_s, 1) : plain(Math.floor(on_s))} s on, ${plain(Math.ceil(off_s))} s off`;
}

function put(stock: Stock[], at: number, change: Partial<Stock>): Stock[] {
  return stock.map((each, i) => (i === at ? { ...each, ...change } : each));
}

/** For each usual load the nearest that can be made, within a tenth. */
function nearestTo(usual: number[], loads: BankAtWork[]): BankAtWork[] {
  const found = usual.flatMap((ohm) => {
    const near = [...loads].sort(
      (a, b) => Math.abs(Math.log(a.load_ohm / ohm)) - Math.abs(Math.log(b.load_ohm / ohm)),
    )[0];
    return near && Math.abs(Math.log(near.load_ohm / ohm)) < 0.1 ? [near] : [];
  });
  return [...new Set(found)];
}

function storedStock(): Stock[] {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "null") as Stock[] | null;
    if (Array.isArray(kept) && kept.length > 0) return kept;
  } catch {
    // What an older version stored is not worth a complaint.
  }
  return [
    { ohm: 8, watts: 200, count: 8 },
    { ohm: 4, watts: 300, count: 4 },
  ];
}
