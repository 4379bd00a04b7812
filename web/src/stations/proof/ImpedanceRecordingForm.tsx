import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, data, fileForm, type ImpedanceOut } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button, LINK_BUTTON } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Complaint } from "../../ui/Complaint";
import { FigureInput } from "../../ui/FigureInput";
import { FileButton } from "../../ui/FileButton";
import { fixed, plain } from "../../ui/format";
import { toNumber } from "../../ui/number";
import { Group } from "../Split";

const CHANNELS = [
  ["left", "Left"],
  ["right", "Right"],
] as const;
const MAINS = [
  ["50", "50 Hz"],
  ["60", "60 Hz"],
] as const;

/** Impedance from a recording of volts and amps while the shipped sweep plays, as the load's measured sweep. */
export function ImpedanceRecordingForm({ index }: { index: number }) {
  const { id, change } = useWork();
  const [text, setText] = useState({ volts: "", divider: "1", shunt: "", resistor: "" });
  const [channel, setChannel] = useState<"left" | "right">("left");
  const [mains, setMains] = useState<"50" | "60">("50");
  const [known, setKnown] = useState<File | null>(null);
  const full = toNumber(text.volts);
  const asked = {
    volts_channel: channel,
    volts_per_unit: full * toNumber(text.divider),
    amps_per_unit: full / toNumber(text.shunt),
    mains_hz: mains,
    resistor_ohm: known && text.resistor.trim() !== "" ? toNumber(text.resistor) : undefined,
  };
  const ready = Number.isFinite(asked.volts_per_unit) && Number.isFinite(asked.amps_per_unit);
  const read = useMutation({
    mutationFn: async (file: File) => {
      const form = fileForm(file);
      if (known) form.bodySerializer().append("resistor", known);
      return data(await api.POST("/api/v1/impedance-recordings", { params: { query: asked }, ...form }));
    },
  });
  const field = (key: keyof typeof text, label: string) => (
    <FigureInput label={label} value={text[key]} onChange={(word) => setText({ ...text, [key]: word })} />
  );
  return (
    <Group title="Impedance from a recording">
      <p className="text-soft max-w-3xl text-sm">
        Play the{" "}
        <Link className="-my-3 inline-block py-3 underline underline-offset-4" to="/tones">
          sweep of the Tones
        </Link>{" "}
        and record in stereo: volts at the output through a divider on one channel, volts over a shunt in the
        speaker lead on the other. ▲ Bridged outputs float: no lead of the recorder may reach ground there.
      </p>
      <div className="my-2 flex flex-wrap items-end gap-3">
        {field("volts", "Volts at full scale of the input")}
        {field("divider", "Divider, times")}
        {field("shunt", "Shunt, Ω")}
        <Choice label="Volts on the" value={channel} options={CHANNELS} onChange={setChannel} />
        <Choice label="Mains" value={mains} options={MAINS} onChange={setMains} />
      </div>
      <div className="my-2 flex flex-wrap items-end gap-3">
        {field("resistor", "Calibrated on, Ω")}
        <FileButton
          quiet
          label={known ? `Calibration: ${known.name}` : "Recording of that resistor"}
          accept=".wav,.flac,audio/wav,audio/flac"
          busy={false}
          onFile={setKnown}
        />
        {ready ? (
          <FileButton
            label="Open the recording"
            accept=".wav,.flac,audio/wav,audio/flac"
            busy={read.isPending}
            onFile={(file) => read.mutate(file)}
          />
        ) : (
          <span className="text-soft text-sm">
            Give the volts at full scale, the divider and the shunt first.
          </span>
        )}
      </div>
      {read.error && <Complaint>{read.error.message}</Complaint>}
      {read.data && (
        <Told found={read.data}>
          <Button strong onClick={() => change(`amplifiers.${index}.load.sweep`, read.data.sweep)}>
            Take it as the load&rsquo;s sweep
          </Button>
          <Link className={LINK_BUTTON} to={`/jobs/${id}/load?view=curves`}>
            See it at Load
          </Link>
        </Told>
      )}
    </Group>
  );
}

function Told({ found, children }: { found: ImpedanceOut; children: React.ReactNode }) {
  const { frequency_hz: hz, impedance_ohm: ohm, phase_deg: phase } = found.sweep;
  const top = ohm.indexOf(Math.max(...ohm));
  const spread = [...found.ohm_spread].sort((a, b) => a - b)[Math.floor(found.ohm_spread.length / 2)] ?? 0;
  return (
    <div className="border-rule mt-2 border-t pt-2" role="status">
      <p>
        {hz.length} points from {plain(hz[0] ?? 0)} to {plain(hz.at(-1) ?? 0)} Hz; most at{" "}
        {plain(hz[top] ?? 0)} Hz: <span className="figure">{fixed(ohm[top] ?? 0, 1)}</span> Ω,{" "}
        {fixed(phase?.[top] ?? 0, 0)}°. Ohms to ± {fixed(196 * spread, 1)} %
        {found.left_out > 0 && `; ${found.left_out} points did not rise above noise`}.
      </p>
      {found.gain !== 1 && (
        <p className="text-soft text-sm">
          Calibrated: gain {fixed(found.gain, 3)}, channels {fixed(found.lag_us, 1)} µs apart.
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-3">{children}</div>
    </div>
  );
}
