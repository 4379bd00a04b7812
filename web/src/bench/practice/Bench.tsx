import { useMutation } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, data, isRefusal, type AmplifierLine, type BenchOut } from "../../api/client";
import { useKept } from "../../drafts/useKept";
import { useKeys } from "../../job/useKeys";
import { Button } from "../../ui/Button";
import { CheckBox } from "../../ui/CheckBox";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { Select } from "../../ui/Select";
import { Meters } from "./Meters";
import { readyFor, recorded, type Criterion, type Row } from "./recorded";
import { RecordedRows } from "./RecordedRows";
import { useReadout } from "./useReadout";

const LOADS = [8, 4, 2, 1.33, 1, 0.5];
const SUPPLIES = [12.6, 13.2, 13.8, 14.4];
const RANGES = [40, 60, 100, 200, 400, 1000];
const [SILENT_DB, MOST_DB] = [-60, 3];
/** What has to be seen to on a real bench before the level goes up. */
const STOPS = [
  "The resistors are bolted down, clear of everything, and nobody touches them: they get hot enough to burn.",
  "Above 50 V AC the output is a shock hazard; bridged outputs float: no grounded lead on either terminal.",
  "The supply is a bench supply, or the engine runs in the open: no engine runs indoors.",
];

interface Settings {
  level_db?: number;
  load_ohm?: number;
  supply_v?: number;
  clamp_range_a?: number;
  zero_clamp?: boolean;
}
interface Props {
  bench: BenchOut;
  /** Whose sheet it becomes; null where it is an exercise's own. */
  amplifier: AmplifierLine | null;
  /** Where the server has forgotten this bench. */
  onGone: () => void;
}
const NO_ROWS: { rows: Row[] } = { rows: [] };

/** The bench at work: knobs, meters, and what is recorded of them. */
export function Bench({ bench, amplifier, onGone }: Props) {
  const { shown, trouble } = useReadout(bench.key, onGone);
  const [level, setLevel] = useState(SILENT_DB);
  const [load, setLoad] = useState(bench.load_ohm);
  const [supply, setSupply] = useState(14.4);
  const [range, setRange] = useState(bench.clamp_range_a);
  const [seen, setSeen] = useState<string[]>([]);
  const [before, setBefore] = useState<number | null>(null);
  const kept = useKept(`practice:${amplifier?.id ?? bench.key}`, FIRST);
  const set = useMutation({
    mutationFn: async (body: Settings) => {
      const params = { path: { key: bench.key } };
      return data(
        await api.POST("/api/v1/benches/{key}/settings", { params, body: { zero_clamp: false, ...body } }),
      );
    },
    scope: { id: bench.key },
    onError: (error) => isRefusal(error) && error.status === 404 && onGone(),
  });
  if (shown && level <= -40 && shown.volts !== null && before === null) setBefore(shown.volts);
  const safe = STOPS.every((stop) => seen.includes(stop));
  const { mutate } = set;
  const turn = (next: number) => {
    const at = Math.round(10 * Math.min(Math.max(next, SILENT_DB), safe ? MOST_DB : SILENT_DB)) / 10;
    setLevel(at);
    mutate({ level_db: at });
  };
  const record = (criterion: Criterion) => {
    if (!shown) return;
    const row = recorded(shown, criterion, {
      load_ohm: load,
      tone_hz: bench.tone_hz,
      clamp_range_a: range,
      before_v: before,
    });
    kept.set({ rows: [...kept.value.rows, row] });
  };
  const latest = useRef(record);
  useEffect(() => {
    latest.current = record;
  });
  const thd = shown?.distortion ?? 0;
  const wanted: Criterion = thd >= 3 ? "clip" : "thd1";
  const keys = useMemo(() => ({ r: () => latest.current(wanted) }), [wanted]);
  useKeys(keys);
  return (
    <div>
      <fieldset className="border-ochre bg-sheet mb-3 border-l-4 px-3 py-2">
        <legend className="sr-only">On a real bench</legend>
        <p className="font-bold">▲ On a real bench, before the level goes up: tick what you would see to</p>
        {STOPS.map((stop) => (
          <CheckBox
            key={stop}
            label={stop}
            checked={seen.includes(stop)}
            onChange={(on) => setSeen(on ? [...seen, stop] : seen.filter((one) => one !== stop))}
          />
        ))}
        <p className="text-soft text-sm">The makers&rsquo; instructions and local codes come first.</p>
      </fieldset>
      <div className="mb-3 flex flex-wrap items-end gap-4">
        <Knob
          label="Load, Ω"
          value={load}
          options={[...new Set([...LOADS, bench.load_ohm])]}
          onTurn={(next) => {
            setLoad(next);
            setLevel(SILENT_DB);
            setBefore(null);
            mutate({ load_ohm: next, level_db: SILENT_DB });
          }}
        />
        <Knob
          label="Supply, V"
          value={supply}
          options={SUPPLIES}
          onTurn={(next) => {
            setSupply(next);
            setBefore(null);
            mutate({ supply_v: next });
          }}
        />
        <Knob
          label="Clamp range, A"
          value={range}
          options={[...new Set([...RANGES, bench.clamp_range_a])]}
          onTurn={(next) => {
            setRange(next);
            mutate({ clamp_range_a: next });
          }}
        />
        <Button onClick={() => mutate({ zero_clamp: true })}>Zero the clamp</Button>
        <span className="text-soft text-sm">
          {bench.tone_hz} Hz tone{bench.bridged ? ", bridged output" : ""}
        </span>
      </div>
      <div className="mb-3 flex items-center gap-3">
        <Button aria-label="Level down" disabled={!safe} onClick={() => turn(level - stepAt(level))}>
          −
        </Button>
        <label className="grow">
          <span className="text-soft text-sm">
            Level <span className="figure text-ink">{fixed(level, 1)}</span> dB
          </span>
          <input
            type="range"
            className="accent-copper block h-11 w-full"
            min={SILENT_DB}
            max={MOST_DB}
            step={0.1}
            disabled={!safe}
            value={level}
            onChange={(event) => turn(Number(event.target.value))}
          />
        </label>
        <Button aria-label="Level up" disabled={!safe} onClick={() => turn(level + stepAt(level))}>
          +
        </Button>
      </div>
      <Meters shown={shown} />
      {trouble && (
        <p role="status" className="text-vermilion mt-1 text-sm">
          ▲ {trouble}
        </p>
      )}
      {set.error && <Complaint>{set.error.message}</Complaint>}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        {(["thd1", "clip"] as const).map((criterion) => {
          const missing = shown ? readyFor(criterion, shown) : "no reading yet";
          return (
            <span key={criterion} className="flex items-center gap-2">
              <Button
                strong={criterion === "thd1"}
                disabled={missing !== ""}
                onClick={() => record(criterion)}
              >
                Record at {criterion === "thd1" ? "1 %" : "clipping"}
              </Button>
              <span className="text-soft text-sm">{missing}</span>
            </span>
          );
        })}
        <span className="text-soft text-sm">or press r</span>
      </div>
      <RecordedRows rows={kept.value.rows} amplifier={amplifier} onChange={(rows) => kept.set({ rows })} />
    </div>
  );
}

/** Large steps far below full output, tenths of a decibel near it. */
function stepAt(level: number): number {
  return level < -12 ? 6 : level < -3 ? 1 : 0.1;
}

const FIRST = { version: 0, document: NO_ROWS };

interface KnobProps {
  label: string;
  value: number;
  options: readonly number[];
  onTurn: (value: number) => void;
}

function Knob({ label, value, options, onTurn }: KnobProps) {
  return (
    <label className="text-soft text-sm">
      <span className="block">{label}</span>
      <Select value={value} onChange={(event) => onTurn(Number(event.target.value))}>
        {[...options]
          .sort((a, b) => b - a)
          .map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
      </Select>
    </label>
  );
}
