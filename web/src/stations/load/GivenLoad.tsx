import { useMutation } from "@tanstack/react-query";

import { api, data, fileForm, type Quantity } from "../../api/client";
import type { JobPath } from "../../api/path";
import { originOf, valueOf } from "../../api/quantity";
import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { plain } from "../../ui/format";
import { Select } from "../../ui/Select";
import { Group } from "../Split";
import { BoxFields } from "./BoxFields";
import { CoilFields } from "./CoilFields";
import { DriverChoice } from "./DriverChoice";

const SMOOTHINGS = [
  [0, "not smoothed"],
  [1 / 12, "smoothed over 1/12 octave"],
  [1 / 3, "smoothed over 1/3 octave"],
] as const;

/** Everything entered about one amplifier's load. */
export function GivenLoad({ index, name }: { index: number; name: string }) {
  const { job } = useWork();
  const at = `amplifiers.${index}.load` as const;
  const load = job.amplifiers?.[index]?.load;
  const riseMeasured = originOf(load?.rise as Quantity | undefined) === "measured";
  const modelled = load?.sweep || (load?.driver && load.box && load.box.kind !== "measured");
  return (
    <>
      <Group title={`Load of ${name}`}>
        <CoilFields index={index} />
        <QuantityField path="basis.tone_hz" label="Tone" unit="Hz" />
      </Group>
      <DriverChoice index={index} />
      <BoxFields index={index} />
      <SweepFields index={index} />
      {(!modelled || riseMeasured) && (
        <Group title={riseMeasured ? "In the box, measured at a tone" : "In the box, typed"}>
          <QuantityField path={`${at}.rise`} label="Impedance rise" unit="×" />
          {riseMeasured && (
            <QuantityField path={`${at}.rise_tone_hz`} label="Rise read at" unit="Hz" empty="the tone" />
          )}
          <QuantityField path={`${at}.power_factor`} label="Power factor" />
        </Group>
      )}
      <Group title="Filters and coil heat">
        <QuantityField path={`${at}.high_pass_hz`} label="High-pass" unit="Hz" empty="none" />
        <OrderField path={`${at}.high_pass_order`} of={load?.high_pass_hz} />
        <QuantityField path={`${at}.low_pass_hz`} label="Low-pass" unit="Hz" empty="none" />
        <OrderField path={`${at}.low_pass_order`} of={load?.low_pass_hz} />
        <QuantityField path={`${at}.coil_temperature_rise_k`} label="Coils warmer by" unit="K" />
        <QuantityField path="vehicle.cabin_longest_m" label="Cabin's length" unit="m" empty="usual" />
      </Group>
    </>
  );
}

/** How steep a filter is: 6 dB an octave for each order. */
function OrderField({ path, of }: { path: JobPath; of: Quantity | null | undefined }) {
  if (valueOf(of) === null) return null;
  return <QuantityField path={path} label="Its order" unit="× 6 dB" empty="usual" />;
}

function SweepFields({ index }: { index: number }) {
  const { job, change } = useWork();
  const at = `amplifiers.${index}.load.sweep` as const;
  const sweep = job.amplifiers?.[index]?.load?.sweep;
  const read = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/v1/sweeps", fileForm(file))),
    onSuccess: (answer) => change(at, answer.sweep),
  });
  return (
    <Group title="Measured sweep">
      {sweep ? (
        <>
          <p className="text-soft text-sm">
            {sweep.frequency_hz.length} points, {plain(sweep.frequency_hz[0] ?? 0)} to{" "}
            {plain(sweep.frequency_hz.at(-1) ?? 0)} Hz{sweep.phase_deg ? "" : ", no phase"}; it stands above
            driver and box.
          </p>
          <Select
            aria-label="Smoothing"
            className="mt-1 w-full"
            value={sweep.smoothing_octaves ?? 0}
            onChange={(event) => change(`${at}.smoothing_octaves`, Number(event.target.value))}
          >
            {SMOOTHINGS.map(([octaves, words]) => (
              <option key={words} value={octaves}>
                {words}
              </option>
            ))}
          </Select>
          <Button className="mt-2" onClick={() => change(at, null)}>
            Take it out
          </Button>
        </>
      ) : (
        <FileButton
          quiet
          label="Import a sweep"
          accept=".csv,text/csv"
          busy={read.isPending}
          onFile={(file) => read.mutate(file)}
        />
      )}
      {read.data &&
        sweep &&
        read.data.said.map((words) => (
          <p key={words} className="text-ochre text-sm">
            ▲ {words}.
          </p>
        ))}
      {read.error && <Complaint>{read.error.message}</Complaint>}
    </Group>
  );
}
