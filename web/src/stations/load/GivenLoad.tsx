import { useMutation, useQuery } from "@tanstack/react-query";

import { api, data, fileForm, type Driver, type Quantity } from "../../api/client";
import { MOST_CHOICES } from "../../bench/useAmplifiers";
import { originOf, valueOf } from "../../api/quantity";
import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { plain } from "../../ui/format";
import { Group } from "../Split";
import { Select } from "../../ui/Select";

const BOXES = [
  ["", "not entered"],
  ["infinite_baffle", "open to the boot (infinite baffle)"],
  ["sealed", "sealed"],
  ["vented", "vented"],
  ["measured", "another kind: measured sweep"],
] as const;
const SMOOTHINGS = [
  [0, "not smoothed"],
  [1 / 12, "smoothed over 1/12 octave"],
  [1 / 3, "smoothed over 1/3 octave"],
] as const;

/** Everything entered about one amplifier's load. */
export function GivenLoad({ index, name }: { index: number; name: string }) {
  const { job } = useWork();
  const at = `amplifiers.${index}.load`;
  const load = job.amplifiers?.[index]?.load;
  const riseMeasured = originOf(load?.rise as Quantity | undefined) === "measured";
  const modelled = load?.sweep || (load?.driver && load.box && load.box.kind !== "measured");
  return (
    <>
      <Group title={`Load of ${name}`}>
        <QuantityField path={`${at}.drivers`} label="Drivers" />
        <QuantityField path={`${at}.coils_per_driver`} label="Coils each" />
        <QuantityField path={`${at}.coil_ohm`} label="Ohms a coil" unit="Ω" />
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
        <QuantityField path={`${at}.low_pass_hz`} label="Low-pass" unit="Hz" empty="none" />
        <QuantityField path={`${at}.coil_temperature_rise_k`} label="Coils warmer by" unit="K" />
        <QuantityField path="vehicle.cabin_longest_m" label="Cabin's length" unit="m" empty="usual" />
      </Group>
    </>
  );
}

function DriverChoice({ index }: { index: number }) {
  const { job, change } = useWork();
  const drivers = useQuery({
    queryKey: ["drivers", "choices"],
    queryFn: async () =>
      data(await api.GET("/api/v1/parts/drivers", { params: { query: { limit: MOST_CHOICES } } })).items,
  });
  const at = `amplifiers.${index}.load`;
  const load = job.amplifiers?.[index]?.load;
  const driver = load?.driver;
  const choose = (id: string) => {
    const found = drivers.data?.find((each) => String(each.id) === id)?.opened?.driver;
    change(at, { ...load, ...(found ? withDriver(found) : { driver: null }) });
  };
  return (
    <Group title="Driver">
      <Select
        aria-label="Driver"
        className="w-full"
        value={driver ? "kept" : ""}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">not entered</option>
        {driver && <option value="kept">{driver.name ?? "a driver without a name"}</option>}
        {drivers.data
          ?.filter((each) => each.opened && each.name !== driver?.name)
          .map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
      </Select>
      {driver && (
        <p className="text-soft mt-1 text-sm">
          f<sub>s</sub> {plain(valueOf(driver.fs_hz) ?? 0)} Hz, Q<sub>es</sub>{" "}
          {plain(valueOf(driver.qes) ?? 0)}, V<sub>as</sub> {plain(valueOf(driver.vas_l) ?? 0)} l, R
          <sub>e</sub> {plain(valueOf(driver.re_ohm) ?? 0)} Ω a coil
        </p>
      )}
    </Group>
  );
}

/** A driver from the parts brings its coils along. */
function withDriver(driver: Driver) {
  return {
    driver,
    wiring: null,
    ...(driver.coils ? { coils_per_driver: driver.coils } : {}),
    ...(driver.coil_ohm ? { coil_ohm: driver.coil_ohm } : {}),
  };
}

function BoxFields({ index }: { index: number }) {
  const { job, change } = useWork();
  const at = `amplifiers.${index}.load.box`;
  const box = job.amplifiers?.[index]?.load?.box;
  const choose = (kind: string) =>
    change(
      at,
      kind === ""
        ? null
        : {
            kind,
            volume_l: box?.volume_l ?? { value: 60, origin: "assumed" },
            tuning_hz: kind === "vented" ? (box?.tuning_hz ?? { value: 33, origin: "assumed" }) : null,
          },
    );
  return (
    <Group title="Box">
      <Select
        aria-label="Box"
        className="w-full"
        value={box?.kind ?? ""}
        onChange={(event) => choose(event.target.value)}
      >
        {BOXES.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Select>
      {(box?.kind === "sealed" || box?.kind === "vented") && (
        <QuantityField path={`${at}.volume_l`} label="Volume, whole box" unit="l" />
      )}
      {box?.kind === "vented" && (
        <>
          <QuantityField path={`${at}.tuning_hz`} label="Tuned to" unit="Hz" />
          <QuantityField path={`${at}.ql`} label="Leakage Q" />
        </>
      )}
    </Group>
  );
}

function SweepFields({ index }: { index: number }) {
  const { job, change } = useWork();
  const at = `amplifiers.${index}.load.sweep`;
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
