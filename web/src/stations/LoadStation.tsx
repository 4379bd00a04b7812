import { useQuery } from "@tanstack/react-query";

import { api, data, type AmplifierReport } from "../api/client";
import { valueOf } from "../api/quantity";
import { QuantityField } from "../job/QuantityField";
import { useWork } from "../job/WorkContext";
import { fixed, plain, watts } from "../ui/format";
import { Table } from "../ui/Table";
import { Cautions } from "./Cautions";
import { Group, Split } from "./Split";

/** Coils and wiring, the ohms that the amplifier really sees, and what that does to the watts. */
export function LoadStation() {
  const { setup, forecast } = useWork();
  const loads = (setup.amplifiers ?? [])
    .map((amplifier, i) => ({ amplifier, i }))
    .filter(({ amplifier }) => amplifier.load);
  if (loads.length === 0)
    return (
      <p className="text-soft p-5">
        No load yet: pick an amplifier at station 2, then wire its drivers here.
      </p>
    );
  return (
    <Split
      given={loads.map(({ amplifier, i }) => (
        <Given key={amplifier.id} index={i} name={amplifier.name} />
      ))}
    >
      {loads.map(({ amplifier, i }) => (
        <div key={amplifier.id}>
          <Wirings index={i} name={amplifier.name} />
          <Delivered report={forecast?.amplifiers.find((each) => each.id === amplifier.id)} />
        </div>
      ))}
      <Cautions station="load" />
    </Split>
  );
}

function Given({ index, name }: { index: number; name: string }) {
  const { setup } = useWork();
  const at = `amplifiers.${index}.load`;
  const load = setup.amplifiers?.[index]?.load;
  const modelled = load?.sweep || (load?.driver && load.box && load.box.kind !== "measured");
  return (
    <Group title={`Load of ${name}`}>
      <QuantityField path={`${at}.drivers`} label="Drivers" />
      <QuantityField path={`${at}.coils_per_driver`} label="Coils each" />
      <QuantityField path={`${at}.coil_ohm`} label="Ohms a coil" unit="Ω" />
      <QuantityField path="basis.tone_hz" label="Tone" unit="Hz" />
      <QuantityField path={`${at}.rise`} label="Impedance rise" unit="×" />
      <QuantityField path={`${at}.power_factor`} label="Power factor" />
      {modelled && (
        <p className="text-soft mt-2 text-sm">
          The ohms come from {load.sweep ? "the measured sweep" : "driver and box"}; a rise marked as measured
          wins over them.
        </p>
      )}
    </Group>
  );
}

function Wirings({ index, name }: { index: number; name: string }) {
  const { setup, change } = useWork();
  const amplifier = setup.amplifiers?.[index];
  const load = amplifier?.load;
  const query = {
    drivers: valueOf(load?.drivers) ?? 1,
    coils_per_driver: valueOf(load?.coils_per_driver) ?? 1,
    coil_ohm: valueOf(load?.coil_ohm) ?? 4,
  };
  const wirings = useQuery({
    queryKey: ["wirings", query],
    queryFn: async () => data(await api.GET("/api/wirings", { params: { query } })),
    staleTime: Infinity,
  });
  const lowest = valueOf(amplifier?.minimum_load_ohm);
  const chosen = load?.wiring ?? wirings.data?.[0]?.words;
  return (
    <Group title={`Ways to wire it to ${name}`}>
      {(amplifier?.speaker_terminals ?? 1) > 1 && (valueOf(amplifier?.channels) ?? 1) === 1 && (
        <p className="mb-1 text-sm">
          ▪ Its {amplifier?.speaker_terminals} pairs of speaker terminals are one output: drivers on both are
          in parallel, and the load below is that of all of them.
        </p>
      )}
      <div role="radiogroup" aria-label={`Wiring of ${name}`} className="border-rule border-t">
        {wirings.data?.map((way) => {
          const tooLow = lowest !== null && way.load_ohm < lowest * 0.995;
          const on = way.words === chosen;
          return (
            <button
              key={way.words}
              role="radio"
              aria-checked={on}
              onClick={() => change(`amplifiers.${index}.load.wiring`, way.words)}
              className={`border-rule flex min-h-11 w-full items-center gap-3 border-b px-2 text-left ${on ? "bg-sunk font-bold" : "hover:bg-sheet"}`}
            >
              <span aria-hidden className="w-4">
                {on ? "■" : "□"}
              </span>
              <span className="flex-1">{way.words}</span>
              {tooLow && (
                <span className="text-vermilion text-sm font-normal">◆ below its lowest safe load</span>
              )}
              <span className="figure w-24 text-right text-lg">{plain(way.load_ohm)} Ω</span>
              <span className="text-soft w-32 text-right text-sm font-normal">
                {fixed(way.coil_share * 100, 0)} % in each coil
              </span>
            </button>
          );
        })}
      </div>
    </Group>
  );
}

function Delivered({ report }: { report: AmplifierReport | undefined }) {
  if (!report) return null;
  return (
    <Group title="What arrives, at the volts the supply holds">
      <Table label="Delivered" head={["", "Load", "Output", "True watts", "Volt-amperes"]}>
        <tr>
          <td>On a resistor, nominal</td>
          <td className="figure">{fixed(report.nominal_ohm, 2)} Ω</td>
          <td />
          <td className="figure">{watts(report.bench_w)} W</td>
          <td className="figure">{watts(report.bench_w)} VA</td>
        </tr>
        <tr className="bg-sunk font-bold">
          <td className="pl-2!">In the box, at the tone</td>
          <td className="figure">{fixed(report.impedance_ohm, 2)} Ω</td>
          <td className="figure whitespace-nowrap">
            {fixed(report.output_v, 1)} V · {fixed(report.output_a, 1)} A
          </td>
          <td className="figure text-copper text-lg">{watts(report.delivered_w)} W</td>
          <td className="figure">{watts(report.apparent_w)} VA</td>
        </tr>
        <tr>
          <td>Mean of the two, as some shops quote</td>
          <td />
          <td />
          <td className="figure">{watts(report.mean_w)} W</td>
          <td />
        </tr>
      </Table>
      <p className="text-soft mt-2 text-sm">
        True to apparent: {fixed(report.true_to_apparent * 100, 0)} %. A multimeter alone shows volt-amperes,
        never watts. Between {watts(report.low_w)} and {watts(report.high_w)} W, as far as {report.basis}{" "}
        tell.
      </p>
    </Group>
  );
}
