import { useState } from "react";

import type { LoadOption } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain, watts } from "../../ui/format";
import { LeftHead, Table } from "../../ui/Table";
import { useLoadOptions } from "./useLoad";
import { WiringDrawing } from "./WiringDrawing";

/** Every way to wire the drivers by what it delivers and draws; the one in hand is drawn. */
export function WiringView({ index, name }: { index: number; name: string }) {
  const { change } = useWork();
  const answer = useLoadOptions(index);
  const [shown, setShown] = useState<string | null>(null);
  const options = answer.data?.options ?? [];
  const used = options.find((each) => each.in_use);
  const drawn = options.find((each) => keyOf(each) === shown) ?? used;
  const at = `amplifiers.${index}` as const;
  const use = (option: LoadOption) => {
    setShown(keyOf(option));
    if (option.connection === used?.connection && option.connection !== "per_driver")
      change(`${at}.load.wiring`, option.words);
  };
  if (answer.error) return <Complaint>{answer.error.message}</Complaint>;
  if (answer.data?.mixed.length) return <Mixed index={index} />;
  return (
    <>
      <div role="radiogroup" aria-label={`Wiring of ${name}`}>
        <Table
          label="Ways to wire it"
          head={[
            <LeftHead key="way">Wired and connected</LeftHead>,
            "Load",
            "In the box",
            "Delivered",
            "Drawn",
            "Real gain",
            "On resistors",
          ]}
        >
          {options.map((option) => (
            <Row
              key={keyOf(option)}
              option={option}
              drawn={option === drawn}
              reachable={option.connection === used?.connection}
              onUse={() => use(option)}
            />
          ))}
        </Table>
      </div>
      <p className="text-soft mt-2 text-sm">
        Each row is a forecast of its own, supply and all, at the loudest moment. Real gain is what the change
        brings in this box and this car; on resistors is what the label promises. Another connection is chosen
        at the Amplifiers station.
      </p>
      {drawn && (
        <div className="mt-4 grid grid-cols-[minmax(0,1fr)_230px] gap-5 max-md:grid-cols-1">
          <WiringDrawing option={drawn} />
          <div>
            <h2>{drawn.words}</h2>
            <p className="text-soft mt-1 text-sm">
              Leads are numbered as they are fitted, plus side first; dashed frames are drivers, seen from
              their terminals.
            </p>
            <p className="mt-3">
              Check with a multimeter, power off, leads taken off the amplifier:{" "}
              <span className="figure text-teal text-lg">{fixed(drawn.dc_ohm, 2)} Ω</span> and the
              leads&rsquo; own resistance.
            </p>
            <p className="text-soft mt-1 text-sm">
              That is direct current through the coils; the {plain(drawn.load_ohm)} Ω on the label is nominal.
            </p>
          </div>
        </div>
      )}
    </>
  );
}

function keyOf(option: LoadOption): string {
  return `${option.connection} ${option.words}`;
}

interface RowProps {
  option: LoadOption;
  drawn: boolean;
  reachable: boolean;
  onUse: () => void;
}

function Row({ option, drawn, reachable, onUse }: RowProps) {
  const words = option.connection === "single" ? option.words : `${option.words}; ${option.connection_words}`;
  return (
    <tr className={option.in_use ? "bg-sunk font-bold" : drawn ? "bg-sheet" : ""}>
      <td>
        <button
          role="radio"
          aria-checked={option.in_use}
          aria-label={words}
          onClick={onUse}
          title={reachable ? "" : "shown only: choose the connection at the Amplifiers station"}
          className="flex min-h-11 w-full min-w-56 items-center gap-2 text-left"
        >
          <span aria-hidden className="w-4">
            {option.in_use ? "■" : reachable ? "□" : "·"}
          </span>
          <span>
            {option.words}
            {option.connection !== "single" && (
              <span className="text-soft block text-sm font-normal">{option.connection_words}</span>
            )}
            {!option.measured && (
              <span className="text-soft block text-sm font-normal">never measured so low</span>
            )}
            {!option.allowed && (
              <span className="text-vermilion block text-sm font-normal">◆ below its lowest safe load</span>
            )}
            {!option.operating && (
              <span className="text-vermilion block text-sm font-normal">◆ the supply does not hold it</span>
            )}
          </span>
        </button>
      </td>
      <td className="figure">{plain(option.load_ohm)} Ω</td>
      <td className="figure">{fixed(option.impedance_ohm, 1)} Ω</td>
      <td className="figure text-copper">{watts(option.delivered_w)} W</td>
      <td className="figure">{fixed(option.draw_peak_a, 0)} A</td>
      <td className="figure">{option.in_use ? "–" : `${signed(option.gain_db)} dB`}</td>
      <td className="figure text-soft">{option.in_use ? "–" : `${signed(option.bench_gain_db)} dB`}</td>
    </tr>
  );
}

function signed(db: number): string {
  return db > 0.05 ? `+${fixed(db, 1)}` : fixed(db, 1);
}

function Mixed({ index }: { index: number }) {
  const answer = useLoadOptions(index);
  return (
    <Table label="Mixed drivers" head={["Joined", "Load", "Shares of the watts", ""]}>
      {answer.data?.mixed.map((each) => (
        <tr key={each.words}>
          <td>{each.words}</td>
          <td className="figure">{fixed(each.load_ohm, 2)} Ω</td>
          <td className="figure">{each.shares.map((share) => `${fixed(share * 100, 0)} %`).join(" · ")}</td>
          <td className="text-ochre">{each.unequal ? "▲ unequal" : ""}</td>
        </tr>
      ))}
    </Table>
  );
}
