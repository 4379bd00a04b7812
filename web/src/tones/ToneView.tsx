import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { api, data } from "../api/client";
import { CautionList } from "../ui/CautionList";
import { Choice } from "../ui/Choice";
import { fixed, plain } from "../ui/format";
import { NumberBox } from "../ui/NumberBox";

interface Tone {
  kind: "sine" | "burst" | "sweep";
  tone_hz: number;
  level_db: number;
  seconds: number;
  sample_rate: 44100 | 48000;
  bits: 16 | 24;
}

const KINDS = [
  ["sine", "Sine"],
  ["burst", "Burst"],
  ["sweep", "Sweep 10–200 Hz"],
] as const;
const TONES_HZ = [20, 25, 30, 40, 50, 60, 80, 1000];
const [LOWEST_HZ, HIGHEST_HZ] = [5, 20_000];
const BURSTS_HZ = [50, 100, 1000];
const RATES = [
  ["44100", "44.1 kHz"],
  ["48000", "48 kHz"],
] as const;
const BITS = [
  ["16", "16 bit"],
  ["24", "24 bit"],
] as const;

/** Make a tone: play it here, or keep it as a WAV file. */
export function ToneView() {
  const [query] = useSearchParams();
  const asked = Number(query.get("hz"));
  const [tone, setTone] = useState<Tone>({
    kind: "sine",
    tone_hz: asked >= LOWEST_HZ && asked <= HIGHEST_HZ ? asked : 40,
    level_db: -5,
    seconds: 30,
    sample_rate: 48000,
    bits: 16,
  });
  const presets = useQuery({
    queryKey: ["tones"],
    queryFn: async () => data(await api.GET("/api/v1/test-tones")),
    staleTime: Infinity,
  });
  const change = (next: Partial<Tone>) => setTone({ ...tone, ...next });
  const address = `/api/v1/test-tones/file?${new URLSearchParams(Object.entries(tone).map(([k, v]) => [k, String(v)]))}`;
  const levelOk = tone.level_db <= 0 && tone.level_db >= -60 && tone.seconds >= 1 && tone.seconds <= 300;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_340px] gap-10 max-md:grid-cols-1">
      <div>
        <div className="flex flex-wrap gap-x-6 gap-y-3">
          <Choice
            label="Kind"
            value={tone.kind}
            options={KINDS}
            onChange={(kind) =>
              change({
                kind,
                tone_hz: kind === "burst" && !BURSTS_HZ.includes(tone.tone_hz) ? 50 : tone.tone_hz,
              })
            }
          />
        </div>
        {tone.kind !== "sweep" && (
          <div role="group" aria-label="Frequency" className="mt-4 flex flex-wrap gap-2">
            {(tone.kind === "burst" ? BURSTS_HZ : TONES_HZ).map((hz) => (
              <button
                key={hz}
                aria-pressed={hz === tone.tone_hz}
                onClick={() => change({ tone_hz: hz })}
                className={`figure h-12 min-w-16 rounded-sm border px-3 text-lg ${hz === tone.tone_hz ? "bg-ink text-sheet border-ink" : "bg-sheet border-rule hover:border-ink"}`}
              >
                {hz >= 1000 ? `${hz / 1000} kHz` : `${hz} Hz`}
              </button>
            ))}
          </div>
        )}
        <div className="mt-4 flex flex-wrap items-end gap-4">
          <NumberBox
            label="Level"
            unit="dB below full scale"
            width="w-40"
            value={tone.level_db}
            onChange={(level_db) => change({ level_db })}
          />
          <NumberBox
            label="Length"
            unit="s"
            value={tone.seconds}
            onChange={(seconds) => change({ seconds })}
          />
          <Choice
            label="Rate"
            value={String(tone.sample_rate) as "44100" | "48000"}
            options={RATES}
            onChange={(rate) => change({ sample_rate: Number(rate) as Tone["sample_rate"] })}
          />
          <Choice
            label="Depth"
            value={String(tone.bits) as "16" | "24"}
            options={BITS}
            onChange={(bits) => change({ bits: Number(bits) as Tone["bits"] })}
          />
        </div>
        {!levelOk && (
          <p role="alert" className="text-vermilion mt-2 text-sm">
            ◆ Level −60 to 0 dB, length 1 to 300 s.
          </p>
        )}
        <p className="mt-5 text-lg font-bold">{inWords(tone)}</p>
        {levelOk && (
          <>
            <audio key={address} controls preload="none" src={address} className="mt-2 w-full max-w-xl">
              <track kind="captions" />
            </audio>
            <a
              className="border-ink bg-ink text-sheet mt-3 inline-grid h-11 place-items-center rounded-sm border px-4 font-medium"
              href={`${address}&download=true`}
              download
            >
              Keep as a WAV file
            </a>
          </>
        )}
        <div className="mt-5 max-w-xl">
          <CautionList cautions={presets.data?.cautions ?? []} />
        </div>
      </div>
      <div>
        <h2>Ready-made</h2>
        <ul className="border-rule mt-1 border-t">
          {presets.data?.presets.map((each) => (
            <li key={each.name} className="border-rule border-b">
              <button
                className="hover:bg-sheet min-h-14 w-full px-1 py-2 text-left"
                onClick={() => setTone(each.tone as Tone)}
              >
                <span className="block font-bold">{inWords(each.tone as Tone)}</span>
                <span className="text-soft text-sm">{each.words}</span>
              </button>
            </li>
          ))}
        </ul>
        <p className="text-soft mt-3 text-sm">
          0 dB is a sine whose peaks touch full scale. A tone at −5 dB leaves 5 dB of overlap: quiet
          recordings still drive the amplifier fully, loud ones clip a little.
        </p>
      </div>
    </div>
  );
}

function inWords({ kind, tone_hz, level_db, seconds }: Tone): string {
  const level = level_db === 0 ? "0 dB" : `${fixed(level_db, Number.isInteger(level_db) ? 0 : 1)} dB`;
  const what =
    kind === "sweep"
      ? "Sweep 10 to 200 Hz"
      : kind === "burst"
        ? `${plain(tone_hz)} Hz, 20 ms in every half second`
        : `${plain(tone_hz)} Hz`;
  return `${what}, ${level}, ${plain(seconds)} s`;
}
