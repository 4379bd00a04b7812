import { useState } from "react";

import type { Asked } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Input } from "../../ui/Input";
import { Select } from "../../ui/Select";
import { KINDS, placesFor, UNITS } from "./kinds";
import { taken } from "./taken";
import type { ReadingsLog } from "./useLog";

const ENGINES = [
  ["off", "engine off"],
  ["idle", "at idle"],
  ["cruise", "at cruise"],
] as const;
const PLAYED = [
  ["silent", "nothing playing"],
  ["tone", "a tone"],
  ["everyday", "everyday music"],
  ["bass_heavy", "bass-heavy music"],
  ["held_bass", "held bass"],
] as const;
const LOADS = [
  ["drivers", "on its drivers"],
  ["resistor", "on a resistor"],
  ["none", "no load on"],
] as const;
const HOLDS = [
  ["mean", "steady"],
  ["min", "least held"],
  ["max", "most held"],
] as const;

const FIRST: Asked = {
  what: "volts",
  from: "front",
  to: "",
  amplifier: "",
  engine: "idle",
  programme: "tone",
  load: "drivers",
  hold: "mean",
};

/** A reading that is not on the card: what, where, in which state. */
export function OtherReading({ log }: { log: ReadingsLog }) {
  const { job } = useWork();
  const [asked, setAsked] = useState<Asked>(FIRST);
  const [value, setValue] = useState("");
  const [since, setSince] = useState("");
  const places = placesFor(asked.what, job);
  const kind = KINDS.find(([key]) => key === asked.what)?.[2];
  const at = kind === "amplifier" ? asked.amplifier : asked.from;
  const placed = (where: string): Partial<Asked> =>
    kind === "amplifier" ? { amplifier: where, from: "" } : { from: where, amplifier: "" };
  const change = (part: Partial<Asked>) => setAsked({ ...asked, ...part });
  const chosen = places.some(([key]) => key === at) ? (at ?? "") : (places[0]?.[0] ?? "");
  const resting = asked.what === "resting_v";
  const submit = () => {
    const whole: Asked = {
      ...asked,
      ...placed(chosen),
      to: asked.what === "drop" ? asked.to || (places.at(-1)?.[0] ?? "") : "",
      side: asked.what === "drop" ? (asked.side ?? "positive") : null,
      ...(resting ? { engine: "off", programme: "silent" } : {}),
      tone_hz: asked.programme === "tone" && !resting ? valueOf(job.basis.tone_hz) : null,
      level_db: asked.programme === "tone" && !resting ? 0 : null,
      since_s: since.trim() === "" ? null : Number(since.replace(",", ".")) * 60,
    };
    log.act({ did: "take", place: null, waiting: taken(log.log, whole, value, null) });
    setValue("");
  };
  return (
    <details className="border-rule mt-4 border-t pt-2">
      <summary className="flex min-h-11 cursor-pointer items-center font-bold">Another reading</summary>
      <form
        className="flex flex-wrap items-end gap-3 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <Field label="What">
          <Select
            value={asked.what}
            onChange={(event) => setAsked({ ...asked, what: event.target.value as Asked["what"] })}
          >
            {KINDS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </Field>
        <Field label={asked.what === "drop" ? "From" : "Where"}>
          <Select value={chosen} onChange={(event) => change(placed(event.target.value))}>
            {places.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </Field>
        {asked.what === "drop" && (
          <>
            <Field label="To">
              <Select
                value={asked.to || places.at(-1)?.[0]}
                onChange={(event) => change({ to: event.target.value })}
              >
                {places.map(([key, words]) => (
                  <option key={key} value={key}>
                    {words}
                  </option>
                ))}
              </Select>
            </Field>
            <Field label="Side">
              <Select
                value={asked.side ?? "positive"}
                onChange={(event) => change({ side: event.target.value as "positive" | "ground" })}
              >
                <option value="positive">positive</option>
                <option value="ground">ground return</option>
              </Select>
            </Field>
          </>
        )}
        {!resting && (
          <>
            <Pick
              label="Engine"
              value={asked.engine}
              options={ENGINES}
              onPick={(engine) => change({ engine })}
            />
            <Pick
              label="Playing"
              value={asked.programme}
              options={PLAYED}
              onPick={(programme) => change({ programme })}
            />
            <Pick
              label="Meter shows"
              value={asked.hold}
              options={HOLDS}
              onPick={(hold) => change({ hold })}
            />
          </>
        )}
        {kind === "amplifier" && (
          <Pick label="Load" value={asked.load} options={LOADS} onPick={(load) => change({ load })} />
        )}
        <Field label="For, min">
          <Input
            className="w-20 text-right"
            inputMode="decimal"
            value={since}
            onChange={(event) => setSince(event.target.value)}
          />
        </Field>
        <Field label={`Read, ${UNITS[asked.what]}`}>
          <Input
            className="figure w-28 text-right text-lg"
            autoComplete="off"
            value={value}
            onChange={(event) => setValue(event.target.value)}
          />
        </Field>
        <Button strong type="submit" disabled={value.trim() === ""}>
          Take it
        </Button>
      </form>
    </details>
  );
}

function Field({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <label className="text-soft text-sm">
      <span className="block">{label}</span>
      {children}
    </label>
  );
}

interface PickProps<T extends string> {
  label: string;
  value: T | undefined;
  options: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
}

function Pick<T extends string>({ label, value, options, onPick }: PickProps<T>) {
  return (
    <Field label={label}>
      <Select value={value ?? options[0]?.[0]} onChange={(event) => onPick(event.target.value as T)}>
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Select>
    </Field>
  );
}
