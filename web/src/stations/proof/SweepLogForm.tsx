import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, fileForm, type SweepResult } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Choice } from "../../ui/Choice";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { fixed, plain, watts } from "../../ui/format";
import { Table } from "../../ui/Table";
import { Group } from "../Split";
import { SweepChart } from "./SweepChart";

const ENGINES = [
  ["off", "Engine off"],
  ["idle", "Idle"],
  ["cruise", "Cruise"],
] as const;

/** Supply and output read together over frequency or level, over the forecast's curves. */
export function SweepLogForm({ amplifier }: { amplifier: string }) {
  const { job } = useWork();
  const [engine, setEngine] = useState<"off" | "idle" | "cruise">("idle");
  const read = useMutation({
    mutationFn: async (file: File) => {
      const params = { query: { amplifier, engine } };
      const form = fileForm(file, { document: JSON.stringify(job) });
      return data(await api.POST("/api/v1/sweep-logs", { params, ...form }));
    },
  });
  return (
    <Group title="A sweep with everything at once">
      <p className="text-soft max-w-3xl text-sm">
        A CSV file with frequency_hz, supply_v, supply_a, output_v, output_a and, where they were read,
        phase_deg and level_db: a row a point, over frequency or over level.
      </p>
      <div className="my-2 flex flex-wrap items-center gap-3">
        <Choice label="Read" value={engine} options={ENGINES} onChange={setEngine} />
        <FileButton
          quiet
          label="Open the log"
          accept=".csv,text/csv"
          busy={read.isPending}
          onFile={(file) => read.mutate(file)}
        />
      </div>
      {read.error && <Complaint>{read.error.message}</Complaint>}
      {read.data && <Told result={read.data} />}
    </Group>
  );
}

function Told({ result }: { result: SweepResult }) {
  const level = result.over === "level";
  return (
    <>
      <ul className="my-2 space-y-1">
        {result.said.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      <SweepChart result={result} />
      <Table
        label="The sweep"
        head={[
          level ? "Level" : "Frequency",
          "Out",
          "forecast",
          "In",
          "forecast",
          "Efficiency",
          "forecast",
          "Supply",
        ]}
      >
        {result.points.map((each) => (
          <tr key={`${each.frequency_hz} ${each.level_db}`}>
            <td className="figure">
              {level ? `${plain(each.level_db)} dB` : `${plain(each.frequency_hz)} Hz`}
            </td>
            <td className="figure">{watts(each.output_w)} W</td>
            <td className="figure text-soft">{maybe(each.forecast_output_w, watts)}</td>
            <td className="figure">{watts(each.input_w)} W</td>
            <td className="figure text-soft">{maybe(each.forecast_input_w, watts)}</td>
            <td className="figure">{fixed(100 * each.efficiency, 0)} %</td>
            <td className="figure text-soft">
              {maybe(each.forecast_efficiency, (share) => fixed(100 * share, 0))}
            </td>
            <td className="figure">{fixed(each.supply_v, 2)} V</td>
          </tr>
        ))}
      </Table>
    </>
  );
}

function maybe(value: number | null, words: (value: number) => string): string {
  return value === null ? "–" : words(value);
}
