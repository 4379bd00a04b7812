import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link, useParams } from "react-router";

import { api, data, type AmplifierOut } from "../api/client";
import { valueOf } from "../api/quantity";
import { Complaint } from "../ui/Complaint";
import { fixed, plain, watts } from "../ui/format";
import { Table } from "../ui/Table";
import { CRITERIA, type Criterion } from "./criteria";

const WattsChart = lazy(async () => ({ default: (await import("./WattsChart")).WattsChart }));

/** One amplifier: the fitted curve through its readings, the readings, and its claims. */
export function AmplifierPage() {
  const { id } = useParams();
  const amplifier = useQuery({
    queryKey: ["amplifier", Number(id)],
    queryFn: async () =>
      data(
        await api.GET("/api/amplifiers/{amplifier_id}", { params: { path: { amplifier_id: Number(id) } } }),
      ),
  });
  if (amplifier.error)
    return (
      <div className="p-8">
        <Complaint>{amplifier.error.message}</Complaint>
      </div>
    );
  if (!amplifier.data) return <p className="text-soft p-8">Fitting the readings …</p>;
  return <Opened amplifier={amplifier.data} />;
}

function Opened({ amplifier }: { amplifier: AmplifierOut }) {
  const { record, curves } = amplifier;
  const [only, setOnly] = useState<Criterion | "all">("all");
  const shown = amplifier.readings.filter((reading) => only === "all" || reading.criterion === only);
  return (
    <div className="mx-auto max-w-6xl px-8 py-6">
      <p className="text-sm">
        <Link to="/bench" className="inline-flex min-h-8 items-center underline">
          Bench
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="text-2xl font-bold">{record.name}</h1>
        <a
          className="border-rule bg-sheet grid h-11 place-items-center rounded-sm border px-4"
          href={`/api/amplifiers/${amplifier.id}/sheet.csv`}
          download
        >
          Export the sheet
        </a>
      </div>
      <p className="text-soft mb-4">{facts(amplifier)}</p>
      {curves.length > 0 && (
        <Suspense fallback={<div className="h-[360px]" />}>
          <WattsChart curves={curves} />
        </Suspense>
      )}
      {curves[0] && (
        <p className="text-soft mt-1 text-sm">
          Readings are drawn as they would be at 14.4 V: output follows the supply to the power{" "}
          {fixed(curves[0].supply_exponent, 2)} ({curves[0].exponent_origin}).{" "}
          {curves[0].gaps.map((gap) => `${gap}. `)}
        </p>
      )}
      <div className="mt-6 mb-2 flex flex-wrap items-center justify-between gap-3">
        <h2>Readings</h2>
        <label className="text-sm">
          Show{" "}
          <select
            className="border-rule bg-sheet h-11 rounded-sm border px-2"
            value={only}
            onChange={(e) => setOnly(e.target.value as Criterion)}
          >
            <option value="all">all criteria</option>
            {curves.map((curve) => (
              <option key={curve.criterion} value={curve.criterion}>
                {CRITERIA[curve.criterion].words}
              </option>
            ))}
          </select>
        </label>
      </div>
      <Table
        label="Readings"
        head={["Load", "Criterion", "Tone", "Before", "Under load", "Drawn", "Output", "Efficiency", "Heat"]}
      >
        {shown.map((run, i) => (
          <tr key={i} className={run.excluded ? "text-soft line-through" : ""}>
            <td className="figure">{plain(run.load_ohm)} Ω</td>
            <td>{CRITERIA[run.criterion].words}</td>
            <td className="figure">{unit(run.tone_hz, 0, "Hz")}</td>
            <td className="figure">{unit(run.supply_before_v, 2, "V")}</td>
            <td className="figure">{unit(run.supply_v, 2, "V")}</td>
            <td className="figure">{unit(run.supply_a, 1, "A")}</td>
            <td className="figure">{run.out_w === null ? "–" : `${watts(run.out_w)} W`}</td>
            <td className="figure">
              {run.efficiency === null ? "–" : `${fixed(run.efficiency * 100, 0)} %`}
            </td>
            <td className="figure">{run.heat_w === null ? "–" : `${watts(run.heat_w)} W`}</td>
          </tr>
        ))}
      </Table>
      {amplifier.claims.length > 0 && (
        <div className="mt-6 max-w-xl">
          <h2>Claims of its maker</h2>
          <Table label="Claims" head={["Load", "Claimed", "At supply", "Distortion", "Kind"]}>
            {amplifier.claims.map((claim, i) => (
              <tr key={i}>
                <td className="figure">{plain(claim.load_ohm)} Ω</td>
                <td className="figure">{watts(claim.power_w)} W</td>
                <td className="figure">{fixed(claim.supply_v, 1)} V</td>
                <td className="figure">{unit(claim.thd_percent, 0, "%")}</td>
                <td>{claim.kind}</td>
              </tr>
            ))}
          </Table>
        </div>
      )}
    </div>
  );
}

function unit(value: number | null | undefined, decimals: number, words: string): string {
  return value === null || value === undefined ? "–" : `${fixed(value, decimals)} ${words}`;
}

function facts({ record, file_name, sheets }: AmplifierOut): string {
  const lowest = valueOf(record.minimum_load_ohm);
  const price = valueOf(record.price);
  return [
    `class ${record.class}`,
    lowest !== null && `lowest safe load ${plain(lowest)} Ω`,
    record.fuses_a && record.fuses_a.length > 0 && `fuses ${record.fuses_a.join(" + ")} A`,
    record.terminal_max && `terminals up to ${record.terminal_max}`,
    price !== null && `${plain(price)} ${record.currency ?? ""}`,
    file_name && `sheet ${file_name}${sheets > 1 ? `, the newest of ${sheets}` : ""}`,
  ]
    .filter(Boolean)
    .join(" · ");
}
