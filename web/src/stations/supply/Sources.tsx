import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data } from "../../api/client";
import type { JobPath } from "../../api/path";
import { CheckField } from "../../job/CheckField";
import { QuantityField } from "../../job/QuantityField";
import { SelectField } from "../../job/SelectField";
import { TextField } from "../../job/TextField";
import { usePlaces } from "../../job/usePlaces";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Group } from "../Split";
import { CHARGERS, CHEMISTRIES } from "./kinds";
import { FigureInput } from "../../ui/FigureInput";
import { toNumber } from "../../ui/number";
import { RemoveButton } from "../../ui/RemoveButton";

/** A list of the job with something to add and something to take away. */
function useList(path: "chargers" | "banks" | "capacitors") {
  const { job, change } = useWork();
  const items = (job[path] ?? []) as { name: string }[];
  return {
    items,
    add: (item: object) => change(path, [...items, item]),
    remove: (at: number) =>
      change(
        path,
        items.filter((_, i) => i !== at),
      ),
  };
}

function assume(value: number) {
  return { value, origin: "assumed" };
}

/** Alternators, converters and mains chargers. */
export function Chargers() {
  const { job } = useWork();
  const { items, add, remove } = useList("chargers");
  return (
    <>
      {items.map((charger, i) => (
        <Group key={i} title={charger.name} aside={<Remove name={charger.name} onRemove={() => remove(i)} />}>
          <TextField path={`chargers.${i}.name`} label="Name" />
          <SelectField path={`chargers.${i}.kind`} label="Kind" options={CHARGERS} />
          {job.chargers?.[i]?.kind === "alternator" ? (
            <>
              <QuantityField path={`chargers.${i}.rated_a`} label="Rated output" unit="A" empty="unknown" />
              <QuantityField path={`chargers.${i}.idle_a`} label="Output at idle" unit="A" empty="unknown" />
              <QuantityField path={`chargers.${i}.hot_derating`} label="Hot derating" unit="×" />
              <SelectField
                path={`chargers.${i}.control`}
                label="Control"
                options={CONTROLS}
                fallback="fixed"
              />
              {job.chargers?.[i]?.control === "managed" && (
                <QuantityField path={`chargers.${i}.setpoint_low_v`} label="Lowers to" unit="V" />
              )}
              <details>
                <summary className="text-soft min-h-11 cursor-pointer py-3 text-sm">
                  Speeds, heat, efficiency
                </summary>
                <QuantityField path={`chargers.${i}.idle_rpm`} label="Engine at idle" unit="rpm" />
                <QuantityField path={`chargers.${i}.cruise_rpm`} label="Engine at cruise" unit="rpm" />
                <QuantityField path={`chargers.${i}.pulley_ratio`} label="Pulley ratio" unit="×" />
                <QuantityField
                  path={`chargers.${i}.setpoint_mv_per_k`}
                  label="Set-point moves by"
                  unit="mV/K"
                />
                <QuantityField path={`chargers.${i}.efficiency`} label="Its efficiency" unit="%" per={100} />
              </details>
            </>
          ) : (
            <QuantityField path={`chargers.${i}.limit_a`} label="Limit" unit="A" empty="unknown" />
          )}
          {job.chargers?.[i]?.kind === "dc_dc" && <ConverterFields at={`chargers.${i}`} />}
          <QuantityField path={`chargers.${i}.setpoint_v`} label="Regulated to" unit="V" />
          <QuantityField path={`chargers.${i}.source_ohm`} label="Internal resistance" unit="mΩ" per={1000} />
        </Group>
      ))}
      {items.length < 4 && (
        <Button
          wide
          className="mb-5"
          onClick={() =>
            add({
              name: items.length ? `Charger ${items.length + 1}` : "Alternator",
              kind: "alternator",
              at: "front",
              rated_a: assume(100),
              idle_a: assume(50),
            })
          }
        >
          Add a charger
        </Button>
      )}
    </>
  );
}

/** Where a converter gives and takes: it makes no power. */
function ConverterFields({ at }: { at: `chargers.${number}` }) {
  const { change } = useWork();
  const places = usePlaces();
  return (
    <>
      <SelectField path={`${at}.at`} label="Gives" options={places} />
      <SelectField
        path={`${at}.from`}
        label="Takes from"
        options={[["", "the traction battery, or the front"], ...places]}
        onPick={(place) => change(`${at}.from`, place || null)}
      />
      <CheckField path={`${at}.always_on`} label="Runs with the engine off too" />
      <details>
        <summary className="text-soft min-h-11 cursor-pointer py-3 text-sm">
          Cut-out, idle, efficiency
        </summary>
        <QuantityField path={`${at}.cutout_v`} label="Stops below" unit="V" />
        <QuantityField path={`${at}.restart_v`} label="Starts again at" unit="V" />
        <QuantityField path={`${at}.idle_w`} label="Takes besides" unit="W" />
        <QuantityField path={`${at}.input_limit_a`} label="Takes at most" unit="A" empty="unknown" />
        <QuantityField path={`${at}.efficiency`} label="Its efficiency" unit="%" per={100} />
      </details>
    </>
  );
}

/** What the management of a lithium battery lets through. */
function ManagementFields({ at }: { at: `banks.${number}` }) {
  return (
    <>
      <QuantityField path={`${at}.charge_limit_a`} label="Management: charge" unit="A" empty="unknown" />
      <QuantityField
        path={`${at}.discharge_limit_a`}
        label="Management: discharge"
        unit="A"
        empty="unknown"
      />
      <QuantityField path={`${at}.discharge_peak_a`} label="For moments" unit="A" empty="twice that" />
    </>
  );
}

/** Battery banks. */
export function Banks() {
  const { job } = useWork();
  const { items, add, remove } = useList("banks");
  const places = usePlaces();
  const rear = places.some(([place]) => place === "rear");
  return (
    <>
      {items.map((bank, i) => (
        <Group key={i} title={bank.name} aside={<Remove name={bank.name} onRemove={() => remove(i)} />}>
          <TextField path={`banks.${i}.name`} label="Name" />
          <SelectField path={`banks.${i}.chemistry`} label="Chemistry" options={CHEMISTRIES} />
          {places.length > 1 && <SelectField path={`banks.${i}.at`} label="Place" options={places} />}
          <QuantityField path={`banks.${i}.capacity_ah`} label="Capacity" unit="Ah" />
          <QuantityField
            path={`banks.${i}.resistance_ohm`}
            label="Resistance"
            unit="mΩ"
            per={1000}
            empty="usual"
          />
          <LoadTest path={`banks.${i}.resistance_ohm`} />
          <QuantityField path={`banks.${i}.charge`} label="State of charge" unit="%" per={100} />
          {["lifepo4", "lto"].includes(job.banks?.[i]?.chemistry ?? "") && (
            <ManagementFields at={`banks.${i}`} />
          )}
          <details>
            <summary className="text-soft min-h-11 cursor-pointer py-3 text-sm">
              Label, age, cold, number
            </summary>
            <QuantityField
              path={`banks.${i}.cold_cranking_a`}
              label="Cold cranking"
              unit="A"
              empty="unknown"
            />
            <QuantityField path={`banks.${i}.age_factor`} label="Left of its capacity" unit="%" per={100} />
            <QuantityField path={`banks.${i}.temperature_c`} label="Temperature" unit="°C" />
            <QuantityField path={`banks.${i}.acceptance_a`} label="Takes on charge" unit="A" empty="usual" />
            <QuantityField path={`banks.${i}.count`} label="Equal ones in parallel" />
            <QuantityField
              path={`banks.${i}.series`}
              label="In series in each of them"
              empty="by its volts"
            />
            <SelectField path={`banks.${i}.isolator`} label="Isolator" options={ISOLATORS} fallback="none" />
            {job.banks?.[i]?.isolator === "diode" && (
              <QuantityField path={`banks.${i}.diode_v`} label="Its diode takes" unit="V" />
            )}
          </details>
        </Group>
      ))}
      <Button
        wide
        className="mb-5"
        onClick={() =>
          add({
            name: items.length ? `Battery ${items.length + 1}` : "Front battery",
            at: items.length && rear ? "rear" : "front",
            chemistry: "agm",
            capacity_ah: assume(70),
          })
        }
      >
        Add a battery
      </Button>
    </>
  );
}

const CONTROLS = [
  ["fixed", "Fixed volts"],
  ["managed", "Managed: lower with a full battery"],
] as const;
const ISOLATORS = [
  ["none", "None: always joined"],
  ["relay", "A relay, joined while it is charged"],
  ["diode", "Diodes, one to each battery"],
] as const;

/** Two readings at the posts give a battery's internal resistance. */
function LoadTest({ path }: { path: JobPath }) {
  const { change } = useWork();
  const [text, setText] = useState({ first_v: "", first_a: "0", second_v: "", second_a: "" });

  const told = useMutation({
    mutationFn: async () =>
      data(
        await api.POST("/api/v1/battery-tests", {
          body: {
            first_v: toNumber(text.first_v),
            first_a: toNumber(text.first_a),
            second_v: toNumber(text.second_v),
            second_a: toNumber(text.second_a),
          },
        }),
      ),
    onSuccess: ({ resistance_ohm }) => change(path, { value: resistance_ohm, origin: "measured" }),
  });
  return (
    <details>
      <summary className="text-soft min-h-11 cursor-pointer py-3 text-sm">From a load test</summary>
      <div className="grid grid-cols-2 gap-2">
        {(
          [
            ["first_v", "First, V"],
            ["first_a", "at, A"],
            ["second_v", "Second, V"],
            ["second_a", "at, A"],
          ] as const
        ).map(([key, words]) => (
          <FigureInput
            key={key}
            label={words}
            spoken={`${key.startsWith("first") ? "First" : "Second"} reading, ${key.endsWith("_v") ? "V" : "A"}`}
            width="w-full"
            value={text[key]}
            onChange={(word) => setText({ ...text, [key]: word })}
          />
        ))}
      </div>
      <Button
        className="mt-2"
        disabled={Object.values(text).some((word) => Number.isNaN(toNumber(word)))}
        onClick={() => told.mutate()}
      >
        Take the resistance
      </Button>
      {told.error && <Complaint>{told.error.message}</Complaint>}
    </details>
  );
}

/** Capacitors. */
export function Capacitors() {
  const { items, add, remove } = useList("capacitors");
  const places = usePlaces();
  const rear = places.some(([place]) => place === "rear");
  return (
    <>
      {items.map((capacitor, i) => (
        <Group
          key={i}
          title={capacitor.name}
          aside={<Remove name={capacitor.name} onRemove={() => remove(i)} />}
        >
          <TextField path={`capacitors.${i}.name`} label="Name" />
          {places.length > 1 && <SelectField path={`capacitors.${i}.at`} label="Place" options={places} />}
          <QuantityField path={`capacitors.${i}.farad`} label="Each" unit="F" />
          <QuantityField path={`capacitors.${i}.esr_ohm`} label="Internal resistance" unit="mΩ" per={1000} />
          <QuantityField path={`capacitors.${i}.count`} label="Equal ones in parallel" />
        </Group>
      ))}
      <Button
        wide
        className="mb-5"
        onClick={() =>
          add({
            name: `Capacitor ${items.length + 1}`,
            at: rear ? "rear" : "front",
            farad: assume(100),
            esr_ohm: assume(0.002),
          })
        }
      >
        Add a capacitor
      </Button>
    </>
  );
}

function Remove({ name, onRemove }: { name: string; onRemove: () => void }) {
  return <RemoveButton label={`Remove ${name}`} onClick={onRemove} />;
}
