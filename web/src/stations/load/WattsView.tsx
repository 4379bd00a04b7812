import type { AmplifierResult, LoadResult } from "../../api/client";
import { amps, fixed, halfBand, plain, watts } from "../../ui/format";
import { Table } from "../../ui/Table";
import { nearestIndex } from "../../ui/nearestIndex";
import { inWords } from "../../ui/writing";

/** How the watts fall from the bench figure to the coils, and the figures that the bases quote, side by side. */
export function WattsView({ report, load }: { report: AmplifierResult; load: LoadResult }) {
  const top = load.loss_budget[0]?.watts ?? 1;
  const half = halfBand({ low: report.low_w, high: report.high_w });
  const travel = load.curves.travel;
  const i = nearestIndex(load.curves.frequency_hz, load.tone_hz);
  return (
    <>
      <h2>From the bench to the coils, at {plain(load.tone_hz)} Hz</h2>
      <table aria-label="Fall of the watts" className="mt-1 w-full">
        <tbody>
          {load.loss_budget.map((step, n) => (
            <tr key={step.name} className="border-rule border-b">
              <td className="w-44 py-1.5 pr-2">
                {step.name}
                <span className="text-soft block text-sm">{inWords(step.why)}</span>
              </td>
              <td aria-hidden className="w-[42%] py-2">
                <div className="bg-sunk h-7 w-full">
                  <div
                    className="h-7"
                    style={{
                      width: `${Math.min(100, (100 * step.watts) / top)}%`,
                      background: n === load.loss_budget.length - 1 ? "var(--copper)" : "var(--copper-pale)",
                    }}
                  />
                </div>
              </td>
              <td
                className={`figure w-24 text-right text-lg ${n === load.loss_budget.length - 1 ? "text-copper" : ""}`}
              >
                {watts(step.watts, half)} W
              </td>
              <td className="figure text-soft w-20 text-right">{n === 0 ? "" : `${fixed(step.db, 1)} dB`}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className="mt-5">What the bases would call its power</h2>
      <Table label="Delivered" head={["", "Load", "Output", "True watts", "Volt-amperes"]}>
        <tr>
          <td>Resistor bank: into the nominal load, at these volts</td>
          <td className="figure">{fixed(report.nominal_ohm, 2)} Ω</td>
          <td />
          <td className="figure">{watts(report.bench_w, half)} W</td>
          <td className="figure">{watts(report.bench_w, half)} VA</td>
        </tr>
        <tr className="bg-sunk font-bold">
          <td className="pl-2!">In the box, at the tone: true power</td>
          <td className="figure">{fixed(report.impedance_ohm, 2)} Ω</td>
          <td className="figure whitespace-nowrap">
            {fixed(report.output_v, 1)} V · {amps(report.output_a)} A
          </td>
          <td className="figure text-copper text-lg">{watts(report.delivered_w, half)} W</td>
          <td className="figure">{watts(report.apparent_w, half)} VA</td>
        </tr>
        <tr>
          <td>Mean of the two, as some shops quote</td>
          <td />
          <td />
          <td className="figure">{watts(report.mean_w, half)} W</td>
          <td />
        </tr>
        <tr>
          <td>Volts squared over nominal ohms: what a multimeter alone would claim</td>
          <td className="figure">{fixed(report.nominal_ohm, 2)} Ω</td>
          <td className="figure">{fixed(report.output_v, 1)} V</td>
          <td className="text-vermilion text-sm">not watts</td>
          <td className="figure">{watts(report.volts_squared_va)} VA</td>
        </tr>
      </Table>
      <p className="text-soft mt-2 text-sm">
        True to apparent: {fixed(report.true_to_apparent * 100, 0)} %. Between {watts(report.low_w, half)} and{" "}
        {watts(report.high_w, half)} W, as far as {report.basis} tell. The ohms come from{" "}
        {HOW[load.curves.how] ?? "the load"}
        {load.curves.phase_known ? "" : "; the phase was not read, so true watts are not more than shown"}.
      </p>
      {travel && (
        <p className="text-soft mt-2 text-sm">
          About {fixed(travel.cabin_db[i] ?? 0, 0)} dB in the cabin at this tone, an estimate ±{" "}
          {travel.band_db} dB: {exposure(travel.exposure_h[i] ?? 0)} a day before it harms hearing (NIOSH
          98-126).
        </p>
      )}
    </>
  );
}

export const HOW: Record<string, string> = {
  rise: "the rise that was entered",
  sweep: "the measured sweep",
  model: "driver and box",
  reading: "readings at the tone",
};

/** How long, in the unit one would say it in. */
export function exposure(hours: number): string {
  const seconds = hours * 3600;
  if (seconds < 60) return `${fixed(Math.max(seconds, 0.1), seconds < 10 ? 1 : 0)} s`;
  return seconds < 7200 ? `${fixed(seconds / 60, 0)} min` : `${fixed(hours, 0)} h`;
}
