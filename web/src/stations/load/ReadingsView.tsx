import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, type LoadResult, type LoadReading } from "../../api/client";
import { getAt } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain, watts } from "../../ui/format";
import { Table } from "../../ui/Table";
import { FigureInput } from "../../ui/FigureInput";
import { toNumber } from "../../ui/number";
import { RemoveButton } from "../../ui/RemoveButton";

const EMPTY = { tone_hz: "40", output_v: "", output_a: "", phase_deg: "", power_w: "" };
const FIELDS = [
  ["tone_hz", "Tone, Hz"],
  ["output_v", "Output, V"],
  ["output_a", "Output, A"],
  ["phase_deg", "Phase, °"],
  ["power_w", "or true watts"],
] as const;

/** Volts and amps read in the car: what they say, kept with the job and used in place of the model near their tone. */
export function ReadingsView({ index, told: says }: { index: number; told: LoadResult["told"] }) {
  const { job, change } = useWork();
  const path = `amplifiers.${index}.load.readings` as const;
  const readings = (getAt(job, path) as LoadReading[] | undefined) ?? [];
  const [text, setText] = useState<Record<string, string>>(EMPTY);
  const told = useMutation({
    mutationFn: async (reading: LoadReading) => {
      await api.POST("/api/v1/load-readings", { body: { reading } });
      return reading;
    },
    onSuccess: (reading) => {
      change(path, [...readings.filter((each) => each.tone_hz !== reading.tone_hz), reading]);
      setText(EMPTY);
    },
  });
  const number = (key: string) => {
    const word = (text[key] ?? "").trim();
    return word === "" ? null : toNumber(word);
  };
  const complete = ["tone_hz", "output_v", "output_a"].every((key) => number(key) !== null);
  const ready = complete && FIELDS.every(([key]) => !Number.isNaN(number(key)));
  return (
    <>
      <h2>Readings at the amplifier&rsquo;s output, in the car</h2>
      <p className="text-soft text-sm">
        Play a tone low enough not to clip; read volts across and amps through the load, with the phase or
        true watts if the meter shows them. Volts and amps alone give ohms, never watts.
      </p>
      {readings.length > 0 && (
        <Table
          label="Readings of the load"
          head={["Tone", "Volts", "Amps", "Says", "Phase", "True watts", ""]}
        >
          {readings.map((each, i) => (
            <Row
              key={each.tone_hz}
              reading={each}
              says={says[i]}
              onRemove={() =>
                change(
                  path,
                  readings.filter((other) => other !== each),
                )
              }
            />
          ))}
        </Table>
      )}
      <form
        className="mt-3 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          told.mutate({
            tone_hz: number("tone_hz") ?? 0,
            output_v: number("output_v") ?? 0,
            output_a: number("output_a") ?? 0,
            phase_deg: number("phase_deg"),
            power_w: number("power_w"),
          });
        }}
      >
        {FIELDS.map(([key, words]) => (
          <FigureInput
            key={key}
            field={key === "tone_hz" ? "reading" : undefined}
            label={words}
            value={text[key] ?? ""}
            onChange={(word) => setText({ ...text, [key]: word })}
          />
        ))}
        <Button type="submit" disabled={!ready || told.isPending}>
          Take it as measured
        </Button>
      </form>
      {told.error && <Complaint>{told.error.message}</Complaint>}
      <p className="text-soft mt-2 text-sm">
        A reading is met exactly at its tone and fades out within half an octave; beyond, driver and box, the
        sweep or the typed rise stand.
      </p>
    </>
  );
}

interface RowProps {
  reading: LoadReading;
  says: LoadResult["told"][number] | undefined;
  onRemove: () => void;
}

/** One reading and what it says. */
function Row({ reading, says, onRemove }: RowProps) {
  return (
    <tr>
      <td className="figure">{plain(reading.tone_hz)} Hz</td>
      <td className="figure">{plain(reading.output_v)} V</td>
      <td className="figure">{plain(reading.output_a)} A</td>
      <td className="figure">{says ? `${fixed(says.impedance_ohm, 2)} Ω` : "…"}</td>
      <td className="figure">{says?.phase_deg == null ? "–" : `${fixed(says.phase_deg, 0)}°`}</td>
      <td className="figure">{says?.true_w == null ? "unknown" : `${watts(says.true_w)} W`}</td>
      <td>
        <RemoveButton label={`Remove the reading at ${plain(reading.tone_hz)} Hz`} onClick={onRemove} />
      </td>
    </tr>
  );
}
