import { QuantityField } from "../../job/QuantityField";
import { SelectField } from "../../job/SelectField";
import { useWork } from "../../job/WorkContext";
import { amps, halfBand, watts } from "../../ui/format";
import { Table } from "../../ui/Table";
import { AtOnce } from "../AtOnce";
import { Cautions } from "../Cautions";
import { Group, Split } from "../Split";
import { PROGRAMME_WORDS, useSupplyReport } from "../useSupplyReport";
import { ProgrammeStrips } from "./ProgrammeStrips";
import { Recording } from "./Recording";

const BUILT_IN = ["tone", "burst", "everyday", "bass_heavy", "held_bass"].map(
  (key) => [key, PROGRAMME_WORDS[key] ?? key] as const,
);

/** What the amplifiers draw from the car with a tone, a burst and music. */
export function DrawStation() {
  const { job, forecast } = useWork();
  const playing = job.basis.programme;
  const programmes = job.basis.programme_file
    ? [...BUILT_IN, ["file", job.basis.programme_file.name] as const]
    : BUILT_IN;
  const report = useSupplyReport();
  return (
    <Split
      given={
        <>
          <Group title="What is played">
            <SelectField path="basis.programme" label="Programme" options={programmes} />
            <QuantityField path="basis.tone_hz" label="Tone" unit="Hz" />
            <QuantityField path="basis.level_db" label="Level" unit="dB" />
            <QuantityField path="basis.clamp_range_a" label="Clamp's range" unit="A" empty="none" />
          </Group>
          <Group title="Overlap, by amplifier">
            {(job.amplifiers ?? []).map((each, i) => (
              <QuantityField key={each.id} path={`amplifiers.${i}.overlap_db`} label={each.name} unit="dB" />
            ))}
            <p className="text-soft mt-1 text-xs">
              How far below full scale the tone was that the gain is set with. Music louder than that is
              clipped.
            </p>
          </Group>
          <Group title="Your own recording">
            <Recording />
          </Group>
          {playing === "burst" && (
            <Group title="Burst">
              <QuantityField path="basis.burst_on_s" label="On" unit="s" />
              <QuantityField path="basis.burst_off_s" label="Between" unit="s" />
              <QuantityField path="basis.burst_off_db" label="Level between" unit="dB" />
            </Group>
          )}
        </>
      }
    >
      <AtOnce settled={report.data !== undefined || report.isError}>
        <Group title="What is played, its level over time">
          <ProgrammeStrips />
        </Group>
        <Group title="All amplifiers together">
          <Table
            label="Draw by programme"
            head={[
              "Programme",
              "Mean",
              "its band",
              "RMS",
              "Peak",
              "Clamp meter, most",
              "Into coils, mean",
              "Heat, mean",
            ]}
          >
            {report.data?.programmes.map(({ programme, draw_a, ...made }) => (
              <tr key={programme} className={programme === playing ? "bg-sunk font-bold" : ""}>
                <td className="pl-2!">{PROGRAMME_WORDS[programme]}</td>
                <td className="figure text-copper text-lg">{amps(draw_a.mean, halfBand(draw_a))} A</td>
                <td className="figure">
                  {amps(draw_a.low, halfBand(draw_a))} to {amps(draw_a.high, halfBand(draw_a))} A
                </td>
                <td className="figure">{amps(draw_a.rms)} A</td>
                <td className="figure">{amps(draw_a.peak)} A</td>
                <td className="figure">{amps(draw_a.clamp)} A</td>
                <td className="figure">
                  {watts(made.delivered_w, halfBand({ low: made.low_w, high: made.high_w }))} W
                </td>
                <td className="figure">{watts(made.heat_w)} W</td>
              </tr>
            ))}
          </Table>
          <p className="text-soft mt-2 text-sm">
            The mean empties the battery and loads the charger; the RMS warms cable and fuse; the peak drops
            the voltage. The clamp figure is the highest mean over 0.4 s. Music is made up, in octave bands:
            an estimate. Each amplifier plays what its filters leave it. The band of the mean closes with a
            run at reduced level on the sheet.
          </p>
        </Group>
        <Group title={`Each amplifier, ${(PROGRAMME_WORDS[playing] ?? playing).toLowerCase()}`}>
          <Table
            label="Draw by amplifier"
            head={[
              "Amplifier",
              "Idle",
              "Mean",
              "RMS",
              "Peak",
              "Clamp meter, most",
              "Taken in, mean",
              "Heat, mean",
            ]}
          >
            {forecast?.amplifiers.map((each) => (
              <tr key={each.id}>
                <td>{each.name}</td>
                <td className="figure">{amps(each.idle_a)} A</td>
                <td className="figure">{amps(each.draw.mean)} A</td>
                <td className="figure">{amps(each.draw.rms)} A</td>
                <td className="figure">{amps(each.draw.peak)} A</td>
                <td className="figure">{amps(each.draw.clamp)} A</td>
                <td className="figure">{watts(each.input_w)} W</td>
                <td className="figure">{watts(each.heat_w)} W</td>
              </tr>
            ))}
          </Table>
        </Group>
        <Group title="The other class at the same loudness">
          <Table
            label="Classes side by side"
            head={["Amplifier", "As it is", "Heat", "As the other class", "Heat"]}
          >
            {report.data?.classes.map((each) => (
              <tr key={each.name}>
                <td>{each.name}</td>
                <td className="figure">
                  {each.own_class}: {amps(each.own_a)} A
                </td>
                <td className="figure">{watts(each.own_heat_w)} W</td>
                <td className="figure">
                  {each.other_class}: {amps(each.other_a)} A
                </td>
                <td className="figure">{watts(each.other_heat_w)} W</td>
              </tr>
            ))}
          </Table>
          <p className="text-soft mt-1 text-sm">
            Mean amps for the same watts in the coils; the other class by its usual efficiency, an estimate.
          </p>
        </Group>
        <Cautions station="draw" />
      </AtOnce>
    </Split>
  );
}
