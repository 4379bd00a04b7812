import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, data, type Amplifier, type AmplifierResult } from "../api/client";
import { QuantityField } from "../job/QuantityField";
import { SelectField } from "../job/SelectField";
import { useWork } from "../job/WorkContext";
import { useAmplifierChoices } from "../bench/useAmplifiers";
import { placeOf } from "../job/loadOfJob";
import { valueOf } from "../api/quantity";
import { Button, LINK_BUTTON } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { amps, fixed, halfBand, watts } from "../ui/format";
import { Table } from "../ui/Table";
import { AtOnce } from "./AtOnce";
import { Cautions } from "./Cautions";
import { RoomForIt } from "./RoomForIt";
import { Group, Split } from "./Split";
import { Select } from "../ui/Select";

const CONNECTIONS = [
  ["single", "one amplifier, one load"],
  ["bridged", "bridged channels"],
  ["per_driver", "one channel for each driver"],
] as const;
const CRITERIA = [
  ["thd1", "1 % THD"],
  ["clip", "clipping"],
  ["burst", "burst"],
  ["unstated", "not stated"],
] as const;
const RULES = { voltage: "its output voltage", current: "its output current", power: "its supply stage" };

/** The amplifiers of the job, picked from the bench, and what each does here. */
export function AmplifiersStation() {
  const { job, forecast } = useWork();
  const amplifiers = job.amplifiers ?? [];
  return (
    <Split
      given={
        <>
          <Group title="From the bench">
            <Pick />
          </Group>
          <Group title="Output counted">
            <SelectField path="basis.criterion" label="Criterion" options={CRITERIA} />
          </Group>
          {amplifiers.map((amplifier, i) => (
            <Given key={amplifier.id} amplifier={amplifier} index={i} />
          ))}
        </>
      }
    >
      {amplifiers.length === 0 && (
        <p className="text-soft">No amplifier yet. Pick one from the bench, at the left.</p>
      )}
      <AtOnce>
        {amplifiers.map((amplifier) => {
          const report = forecast?.amplifiers.find((each) => each.id === amplifier.id);
          return report && <Result key={amplifier.id} report={report} />;
        })}
        <RoomForIt />
        <Cautions station="amplifiers" />
      </AtOnce>
    </Split>
  );
}

function Pick() {
  const { job, change } = useWork();
  const [chosen, setChosen] = useState("");
  const list = useAmplifierChoices();
  const add = useMutation({
    mutationFn: async (id: number) =>
      data(
        await api.GET("/api/v1/amplifiers/{amplifier_id}/job-amplifier", {
          params: { path: { amplifier_id: id } },
        }),
      ),
    onSuccess: (picked) => {
      const present = job.amplifiers ?? [];
      const ids = new Set(present.map((each) => each.id));
      let n = present.length + 1;
      while (ids.has(`a${n}`)) n += 1;
      const rear = (job.cables ?? []).some((cable) => cable.to === "rear");
      change("amplifiers", [...present, { ...picked, id: `a${n}`, at: rear ? "rear" : "front" }]);
    },
  });
  return (
    <>
      <label className="sr-only" htmlFor="pick-amplifier">
        Amplifier
      </label>
      <Select
        id="pick-amplifier"
        className="w-full"
        value={chosen}
        onChange={(e) => setChosen(e.target.value)}
      >
        <option value="">choose an amplifier</option>
        {list.data?.map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </Select>
      <div className="mt-2">
        <Button wide disabled={chosen === "" || add.isPending} onClick={() => add.mutate(Number(chosen))}>
          Add to this job
        </Button>
      </div>
      {add.error && <Complaint>{add.error.message}</Complaint>}
      {list.data?.length === 0 && (
        <p className="text-soft mt-2 text-sm">
          The bench is empty.{" "}
          <Link className="underline" to="/bench">
            Import a sheet
          </Link>
          .
        </p>
      )}
    </>
  );
}

function Given({ amplifier, index }: { amplifier: Amplifier; index: number }) {
  const { id, job, change } = useWork();
  const at = `amplifiers.${index}` as const;
  const remove = () =>
    change(
      "amplifiers",
      (job.amplifiers ?? []).filter((_, i) => i !== index),
    );
  return (
    <Group title={`${amplifier.name}, as fitted`}>
      <p className="text-soft text-sm">{amplifier.came_from ?? "entered in this job"}</p>
      <SelectField path={`${at}.connection`} label="Connection" options={CONNECTIONS} />
      <QuantityField path={`${at}.level_db`} label="Level" unit="dB" />
      <QuantityField path={`${at}.idle_a`} label="Idle current" unit="A" empty="usual" />
      <QuantityField path={`${at}.minimum_load_ohm`} label="Lowest safe load" unit="Ω" empty="unknown" />
      <div className="mt-2 flex flex-wrap gap-2">
        <Link className={LINK_BUTTON} to={`/tones?view=set-up&for=${placeOf(id, amplifier.id)}`}>
          Set-up sheet
        </Link>
        <Link className={LINK_BUTTON} to={`/tones?hz=${valueOf(job.basis.tone_hz) ?? 40}`}>
          Test tones
        </Link>
        <Button onClick={remove}>Take out of the job</Button>
      </div>
    </Group>
  );
}

function Result({ report }: { report: AmplifierResult }) {
  const half = halfBand({ low: report.low_w, high: report.high_w });
  return (
    <Group title={report.name}>
      <Table label={report.name} head={["At the loudest moment", "", ""]}>
        <Row
          label="Delivered, true watts"
          value={`${watts(report.delivered_w, half)} W`}
          note={`between ${watts(report.low_w, half)} and ${watts(report.high_w, half)} W`}
          tone="text-copper"
        />
        <Row
          label="Output"
          value={`${fixed(report.output_v, 1)} V`}
          note={`${amps(report.output_a)} A into ${fixed(report.impedance_ohm, 2)} Ω`}
        />
        <Row
          label="What limits it"
          value={RULES[report.limited_by]}
          note={
            report.extrapolated ? "below the lowest load measured" : `at ${fixed(report.impedance_ohm, 2)} Ω`
          }
          words
        />
        <Row
          label="Supply at its terminals"
          value={`${fixed(report.terminal_low_v, 2)} V`}
          note={`${fixed(report.lost_to_sag_db, 1)} dB against the set-point held`}
          tone="text-teal"
        />
        <Row
          label="Efficiency"
          value={`${fixed(report.efficiency * 100, 0)} %`}
          note={`${watts(report.heat_w)} W of heat, mean`}
        />
        <Row
          label="Rests on"
          value={report.basis}
          note={`output follows the supply to the power ${fixed(report.exponent, 2)}: ${report.exponent_origin}`}
          words
        />
      </Table>
    </Group>
  );
}

function Row({
  label,
  value,
  note,
  tone = "",
  words = false,
}: {
  label: string;
  value: string;
  note: string;
  tone?: string;
  words?: boolean;
}) {
  return (
    <tr>
      <td className="lg:whitespace-nowrap">{label}</td>
      <td className={words ? "" : `figure text-lg ${tone}`}>{value}</td>
      <td className="text-soft text-left! text-sm">{note}</td>
    </tr>
  );
}
