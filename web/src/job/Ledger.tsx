import { Link } from "react-router";

import type { CableResult, Finding, Forecast } from "../api/client";
import { amps, fixed, halfBand, plain, watts } from "../ui/format";
import { inWords } from "../ui/writing";
import { Figure, type Tone } from "../ui/Figure";
import { SeverityMark, type Severity } from "../ui/SeverityMark";
import { OLD_WORDS } from "./KeyLine";
import { useMeasureNext } from "./useForecast";
import { useWork } from "./WorkContext";
import { Terms } from "../guide/Terms";

const VOLTS_TONES: Record<Severity | "well", Tone> = {
  act: "vermilion",
  caution: "ochre",
  note: "teal",
  well: "teal",
};

/** What holds at every station: key figures, flags, and what to measure next. */
export function Ledger({ settled }: { settled: boolean }) {
  const { id, forecast } = useWork();
  return (
    <aside aria-label="Ledger" className="bg-sunk min-h-full px-4 py-4 print:hidden">
      <h2>
        Ledger <span className="old-word text-soft text-sm font-normal">{OLD_WORDS}</span>
      </h2>
      {forecast && <KeyFigures forecast={forecast} />}
      {forecast && <Flags id={id} forecast={forecast} />}
      {forecast && <Next settled={settled} />}
    </aside>
  );
}

function KeyFigures({ forecast }: { forecast: Forecast }) {
  const { figures } = forecast;
  const first = forecast.amplifiers[0];
  const drawn = halfBand(forecast.draw_a);
  const rows: [string, string, Tone, string?][] = [
    [
      "delivered_w",
      "Delivered",
      "copper",
      first &&
        `of ${watts(first.bench_w, halfOf(first))} W on the bench at ${plain(first.nominal_ohm)} Ω${bandOf(forecast)}`,
    ],
    ["terminal_v", "At the amplifier", VOLTS_TONES[first?.terminal_severity ?? "well"], lowest(forecast)],
    [
      "draw_a",
      "Drawn, mean",
      "copper",
      `${amps(forecast.draw_a.low, drawn)} to ${amps(forecast.draw_a.high, drawn)} A; clamp ${fixed(forecast.draw_a.clamp, 0)} A at most, peak ${fixed(forecast.draw_a.peak, 0)} A`,
    ],
    ["lost_to_sag_db", "Lost to sag", "ink", "against the set-point held"],
    [
      "short_a",
      "Left over",
      (figures.short_a?.value ?? 0) < -0.5 ? "vermilion" : "ink",
      "charger, less car and amplifiers",
    ],
  ];
  return (
    <div aria-live="polite">
      {rows.map(([key, label, tone, note]) => {
        const figure = figures[key];
        if (!figure) return null;
        return (
          <div key={key} className="border-rule border-b py-2">
            <div className="flex items-baseline justify-between gap-2">
              <span>
                <Terms>{label}</Terms>
              </span>
              <Figure figure={figure} tone={tone} />
            </div>
            {note && <p className="text-soft text-sm">{note}</p>}
          </div>
        );
      })}
    </div>
  );
}

/** Half of the band of an amplifier's watts. */
const halfOf = ({ low_w, high_w }: Forecast["amplifiers"][number]) => halfBand({ low: low_w, high: high_w });

function bandOf(forecast: Forecast): string {
  const first = forecast.amplifiers[0];
  if (!first || first.delivered_w <= 0) return "";
  const half = halfOf(first);
  return `; ${watts(first.low_w, half)} to ${watts(first.high_w, half)} W`;
}

function lowest(forecast: Forecast): string {
  const first = forecast.amplifiers[0];
  if (!first) return "";
  const mean = forecast.figures.terminal_v?.value ?? first.terminal_v;
  if (Math.abs(mean - first.terminal_low_v) < 0.005) return "held, as long as the battery lasts";
  return `mean; ${fixed(first.terminal_low_v, 2)} V at the loudest moment`;
}

/** Where a flag leads: the field that it is about, at its station; a cable is opened for it. */
function placeOf(flag: Finding, cables: CableResult[]): string {
  const query = new URLSearchParams();
  const cable = cables.find((each) => flag.field.startsWith(`${each.field}.`));
  if (flag.station === "cable" && cable) query.set("cable", cable.name);
  if (flag.field) query.set("at", flag.field);
  return `${flag.station}?${query}`;
}

function Flags({ id, forecast }: { id: number; forecast: Forecast }) {
  const { flags, cables, amplifiers } = forecast;
  if (amplifiers.length === 0 && flags.length === 0)
    return <p className="text-soft mt-3 text-sm">Nothing was checked yet: there is no amplifier.</p>;
  return (
    <ul className="mt-3 " aria-label="Flags">
      {flags.map((flag) => {
        return (
          <li key={`${flag.code} ${flag.field} ${flag.text}`}>
            <details>
              <summary className="flex min-h-11 cursor-pointer items-center gap-2 text-sm">
                <SeverityMark severity={flag.severity} />
                <span>{inWords(flag.text)}</span>
              </summary>
              <p className="text-soft mt-1 ml-5 text-sm">
                {inWords(`${flag.why} ${flag.remedy}`)}{" "}
                {id > 0 && (
                  <Link
                    className="text-ink -my-3 inline-block py-3 underline underline-offset-4"
                    to={`/jobs/${id}/${placeOf(flag, cables)}`}
                  >
                    Go there
                  </Link>
                )}
              </p>
            </details>
          </li>
        );
      })}
      {flags.length === 0 && <li className="text-moss text-sm">✓ Nothing to flag.</li>}
    </ul>
  );
}

function Next({ settled }: { settled: boolean }) {
  const { job } = useWork();
  const next = useMeasureNext(job, settled);
  if (!next.data?.length) return null;
  return (
    <>
      <h2 className="mt-5">Measure this next</h2>
      <ul className="mt-1 space-y-1.5 text-sm">
        {next.data.map((worth) => (
          <li key={worth.field}>
            {worth.name}, {worth.part}: it may move the answer by{" "}
            <span className="whitespace-nowrap">
              {fixed(worth.volts, 2)} V and {watts(worth.watts)} W
            </span>
            ; read it {worth.where}.
          </li>
        ))}
      </ul>
    </>
  );
}
