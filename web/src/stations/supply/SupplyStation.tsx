import type { EngineResult, SupplyReport } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Figure } from "../../ui/Figure";
import { amps, fixed } from "../../ui/format";
import { SeverityMark, type Severity } from "../../ui/SeverityMark";
import { Table } from "../../ui/Table";
import { AtOnce } from "../AtOnce";
import { Cautions } from "../Cautions";
import { Group, Split } from "../Split";
import { PROGRAMME_WORDS, useSupplyReport } from "../useSupplyReport";
import { Carriers } from "./Carriers";
import { EngineOffTime } from "./EngineOffTime";
import { ENGINE_WORDS } from "./kinds";
import { lowV } from "./howLong";
import { Banks, Capacitors, Chargers } from "./Sources";
import { Reserves } from "./Reserves";
import { SimulationPanel } from "./SimulationPanel";
import { VehicleLoads } from "./VehicleLoads";
import { WhatGives } from "./WhatGives";

const VOLTS_TONES: Record<Severity | "well", string> = {
  act: "text-vermilion",
  caution: "text-ochre",
  note: "text-soft",
  well: "text-teal",
};

/** Charger, batteries and the vehicle's own use, and the volts that come of it. */
export function SupplyStation() {
  const { job, forecast } = useWork();
  const report = useSupplyReport();
  return (
    <Split
      given={
        <>
          <Chargers />
          <Banks />
          <Capacitors />
          <VehicleLoads />
        </>
      }
    >
      <AtOnce settled={report.data !== undefined || report.isError}>
        {report.data && <WhatGives gives={report.data.gives} />}
        <AtTheAmplifier programmes={report.data?.programmes ?? []} />
        <SimulationPanel />
        {report.data && <Reserves reserves={report.data.reserves} />}
        {!!report.data?.engine_off.length && (
          <Group title={`Engine off: how long it plays until a battery is at ${lowV(job)} V`}>
            <EngineOffTime rows={report.data.engine_off} />
            <p className="text-soft mt-1 text-sm">
              From the charge that is entered, at the mean load of each.
            </p>
          </Group>
        )}
        <Group title="Who carries the amps, as it plays now">
          {forecast && <Carriers engines={forecast.engines} />}
          <Table
            label="Sources"
            head={[
              "",
              "Front posts",
              "Charger gives",
              "of",
              "The car takes",
              "Amplifiers, mean",
              "Battery gives",
            ]}
          >
            {forecast?.engines.map((each) => (
              <tr key={each.engine} className={each.engine === job.basis.engine ? "bg-sunk font-bold" : ""}>
                <td className="pl-2!">{ENGINE_WORDS[each.engine]}</td>
                <td className="figure text-teal">
                  {each.front_v === null ? "–" : `${fixed(each.front_v, 2)} V`}
                </td>
                <td className="figure text-copper">{amps(each.charger_a)} A</td>
                <td className="figure">
                  {each.available_a === null ? "unknown" : `${fixed(each.available_a, 0)} A`}
                </td>
                <td className="figure">{amps(each.vehicle_a)} A</td>
                <td className="figure">{amps(each.draw_a)} A</td>
                <td
                  className={`figure ${each.bank_a > 0.5 && each.engine !== "off" ? "text-vermilion" : ""}`}
                >
                  {amps(each.bank_a)} A
                </td>
              </tr>
            ))}
          </Table>
        </Group>
        {forecast?.figures.reserve_a && (
          <p className="mb-4 flex items-baseline justify-between gap-4">
            <span>Reserve: what the chargers can give less what the vehicle uses</span>
            <Figure figure={forecast.figures.reserve_a} tone="copper" />
          </p>
        )}
        <Cautions station="supply" />
      </AtOnce>
    </Split>
  );
}

function AtTheAmplifier({ programmes }: { programmes: SupplyReport["programmes"] }) {
  const { job, forecast } = useWork();
  const { engines = [], terminal_lines: lines } = forecast ?? {};
  return (
    <Group title="At the amplifier, at the loudest moment">
      <Table
        label="Volts at the amplifier"
        head={["", ...programmes.map(({ programme }) => PROGRAMME_WORDS[programme])]}
      >
        {engines.map(({ engine }, row) => (
          <tr key={engine} className={engine === job.basis.engine ? "bg-sunk" : ""}>
            <td className="pl-2!">{ENGINE_WORDS[engine]}</td>
            {programmes.map((each) => (
              <td key={each.programme} className="text-lg">
                <Volts report={each.engines[row]} />
              </td>
            ))}
          </tr>
        ))}
      </Table>
      {lines && (
        <p className="text-soft mt-2 text-sm">
          ▲ caution below {fixed(lines.caution_v, 1)} V · ◆ act below {fixed(lines.act_v, 1)} V, under load.
        </p>
      )}
    </Group>
  );
}

function Volts({ report }: { report: EngineResult | undefined }) {
  if (!report) return null;
  const { terminal_low_v: low, terminal_severity: severity } = report;
  if (low === null) return <span className="text-vermilion">◆ no source</span>;
  if (!report.operating_point) return <span className="text-vermilion">◆ does not hold</span>;
  return (
    <span className={VOLTS_TONES[severity ?? "well"]}>
      {severity && (
        <span className="text-sm">
          <SeverityMark severity={severity} />{" "}
        </span>
      )}
      <span className="figure">{fixed(low, 2)}</span> V
    </span>
  );
}
