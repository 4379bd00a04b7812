import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type CableResult, type GaugeCheck } from "../../api/client";
import { setAll } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { useForecast } from "../../job/useForecast";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain } from "../../ui/format";
import { MeterBox } from "./MeterBox";
import { TestDialog } from "./TestDialog";

const WAYS = [
  ["strands", "By its strands"],
  ["drop", "By the volts it drops"],
] as const;
type Way = (typeof WAYS)[number][0];

/** Whether a cable really is the gauge on its label, and what that does to drop and fuse. */
export function GaugeTest({ cable }: { cable: CableResult }) {
  return (
    <TestDialog title={`Is ${cable.name} really ${cable.size}?`} open="Is it really that gauge?">
      {(close) => <Test cable={cable} onDone={close} />}
    </TestDialog>
  );
}

function Test({ cable, onDone }: { cable: CableResult; onDone: () => void }) {
  const { job, change } = useWork();
  const [way, setWay] = useState<Way>("strands");
  const [read, setRead] = useState({
    strands: "",
    strand_mm: "",
    volts: "",
    amps: "",
    length_m: "",
    celsius: "20",
  });
  const set = (part: Partial<typeof read>) => setRead({ ...read, ...part });
  const number = (key: keyof typeof read) => Number(read[key]);
  const check = useMutation({
    mutationFn: async (by: Way) =>
      data(
        await api.POST("/api/v1/gauge-tests", {
          body: {
            size: cable.size,
            conductor: cable.conductor,
            strands: by === "strands" ? { strands: number("strands"), strand_mm: number("strand_mm") } : null,
            drop:
              by === "drop"
                ? {
                    volts: number("volts") / 1000,
                    amps: number("amps"),
                    length_m: number("length_m"),
                    celsius: number("celsius"),
                  }
                : null,
          },
        }),
      ),
  });
  const measured = (value: number) => ({ value, origin: "measured" as const });
  const taken = (found: GaugeCheck) =>
    setAll(
      job,
      way === "strands"
        ? {
            [`${cable.field}.strands`]: measured(number("strands")),
            [`${cable.field}.strand_mm`]: measured(number("strand_mm")),
            [`${cable.field}.measured_ohm_per_m`]: null,
          }
        : { [`${cable.field}.measured_ohm_per_m`]: measured(found.ohm_per_m) },
    );
  const needed: (keyof typeof read)[] =
    way === "strands" ? ["strands", "strand_mm"] : ["volts", "amps", "length_m", "celsius"];
  return (
    <>
      <Choice
        label="Tell"
        value={way}
        options={WAYS}
        onChange={(picked) => {
          setWay(picked);
          check.reset();
        }}
      />
      <p className="mt-2 text-sm">
        {way === "strands"
          ? "Cut an end square. Count the strands, and measure one with a micrometer or calliper. Of a rope of bundles, count one bundle and multiply."
          : "Lay out a known length. Send a steady current through it, clamp it, and read the millivolts between two points on that length, with the probes on the strands."}
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        {way === "strands" ? (
          <>
            <MeterBox label="Strands" value={read.strands} onChange={(strands) => set({ strands })} />
            <MeterBox
              label="One strand, mm"
              value={read.strand_mm}
              onChange={(strand_mm) => set({ strand_mm })}
            />
          </>
        ) : (
          <>
            <MeterBox label="Read, mV" value={read.volts} onChange={(volts) => set({ volts })} />
            <MeterBox label="Clamp, A" value={read.amps} onChange={(amps) => set({ amps })} />
            <MeterBox
              label="Between probes, m"
              value={read.length_m}
              onChange={(length_m) => set({ length_m })}
            />
            <MeterBox label="Cable, °C" value={read.celsius} onChange={(celsius) => set({ celsius })} />
          </>
        )}
        <Button
          strong
          disabled={needed.some((key) => read[key] === "") || check.isPending}
          onClick={() => check.mutate(way)}
        >
          Hold it against the label
        </Button>
      </div>
      {check.error && <Complaint>{check.error.message}</Complaint>}
      {check.data && (
        <Told
          found={check.data}
          cable={cable}
          job={taken(check.data)}
          onTake={(changed) => {
            change("", changed);
            onDone();
          }}
        />
      )}
    </>
  );
}

interface ToldProps<T> {
  found: GaugeCheck;
  cable: CableResult;
  job: T;
  onTake: (job: T) => void;
}

function Told({ found, cable, job, onTake }: ToldProps<ReturnType<typeof useWork>["job"]>) {
  const after = useForecast(job).data?.cables.find((each) => each.field === cable.field);
  return (
    <div className="border-rule mt-3 border-t pt-2" role="status">
      <p className="text-lg">
        {found.true ? (
          <span className="text-moss">✓ True to its label</span>
        ) : (
          <span className="text-ochre">
            ▲ It conducts {fixed(100 * found.share, 0)} % of what {found.label} should
          </span>
        )}
      </p>
      <p>
        Like copper of <span className="figure">{plain(found.copper_mm2)} mm²</span>, {found.gauge}, against{" "}
        {plain(found.label_mm2)} mm² on the label.
      </p>
      <p className="text-soft text-sm">{found.words}</p>
      {after && (
        <p className="mt-1 text-sm">
          It then drops <span className="figure text-teal">{fixed(after.drop_v, 3)} V</span> (now{" "}
          {fixed(cable.drop_v, 3)} V), may carry {fixed(after.ampacity_a, 0)} A (now{" "}
          {fixed(cable.ampacity_a, 0)} A), and its fuse may be {fixed(after.fuse_most_a, 0)} A at most.
        </p>
      )}
      <Button strong className="mt-2" onClick={() => onTake(job)}>
        Reckon with what was measured
      </Button>
    </div>
  );
}
