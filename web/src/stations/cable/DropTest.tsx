import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type CableResult, type DropTested, type Job } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { MeterBox } from "./MeterBox";
import { TestDialog } from "./TestDialog";

type What = "ground_return" | "total_return" | "joints";
interface Props {
  cable: CableResult;
  what: "ground_return" | "joints";
}

const TONE = "Play a steady tone, loud enough for 20 A or more";
/** What makes the current flow that is read. */
const LOADING = {
  ground_return: `${TONE}; engine as it will be used.`,
  joints: `${TONE}; engine as it will be used.`,
  total_return: `Engine off, so that the battery alone feeds it. ${TONE}, through this amplifier alone.`,
  charging: "Engine running, out of doors. Turn on lights and blower or play a tone, for 20 A or more.",
};

/** A guided voltage-drop test: what is read with a meter under load replaces what was assumed. */
export function DropTest({ cable, what }: Props) {
  const title = what === "ground_return" ? "Test the ground return" : "Test the joints";
  return (
    <TestDialog title={`${title} of ${cable.name}`} open={title}>
      {(close) => <Test cable={cable} what={what} onDone={close} />}
    </TestDialog>
  );
}

function Test({ cable, what, onDone }: Props & { onDone: () => void }) {
  const { job, change } = useWork();
  const [span, setSpan] = useState<What>(what);
  const [volts, setVolts] = useState("");
  const [amps, setAmps] = useState("");
  const test = useMutation({
    mutationFn: async () =>
      data(
        await api.POST("/api/v1/drop-tests", {
          body: {
            document: job,
            field: cable.field,
            what: span,
            reading: { volts: Number(volts) / 1000, amps: Number(amps) },
          },
        }),
      ),
  });
  const probes = {
    ground_return: `one on ${cable.return_end_words}, the other on ${cable.return_start_words}`,
    total_return:
      "one on the amplifier's negative terminal, the other on the negative post of the battery nearest on its way",
    joints: "one on the cable's own strands before the joint or fuse holder, the other on those after it",
  }[span];
  return (
    <>
      <ol className="list-decimal space-y-1 pl-5">
        <li>Meter on millivolts DC. Put its probes {probes}.</li>
        <li>{LOADING[cable.role === "charging" ? "charging" : span]}</li>
        <li>Clamp this cable, and read volts and amps at the same moment.</li>
      </ol>
      <p className="text-ochre mt-1 text-sm">
        ▲ A probe that slips onto a positive post is a short: work from the negative side, sleeves back, rings
        off. Turn the load off as soon as both are read.
      </p>
      {what === "ground_return" && cable.role === "lead" && (
        <label className="mt-2 flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="size-5"
            checked={span === "total_return"}
            onChange={(event) => setSpan(event.target.checked ? "total_return" : "ground_return")}
          />
          The probes stood at the amplifier and at the battery, over the total path
        </label>
      )}
      <div className="mt-2 flex items-end gap-3">
        <MeterBox label="Read, mV" value={volts} onChange={setVolts} />
        <MeterBox label="Clamp, A" value={amps} onChange={setAmps} />
        <Button strong disabled={volts === "" || amps === "" || test.isPending} onClick={() => test.mutate()}>
          Work it out
        </Button>
      </div>
      {test.error && <Complaint>{test.error.message}</Complaint>}
      {test.data && (
        <Told
          told={test.data}
          onTake={() => {
            change("", test.data.document as Job);
            onDone();
          }}
        />
      )}
    </>
  );
}

function Told({ told, onTake }: { told: DropTested; onTake: () => void }) {
  const milli = (ohm: number) => fixed(ohm * 1000, 2);
  return (
    <div className="border-rule mt-3 border-t pt-2" role="status">
      <p>
        <span className="figure text-xl">{milli(told.found.ohm)}</span> mΩ, from {milli(told.found.low_ohm)}{" "}
        to {milli(told.found.high_ohm)} by the meters alone; {milli(told.was_ohm)} mΩ were reckoned with.
      </p>
      <p className="text-soft text-sm">{told.found.words}</p>
      {told.drop_v !== null && told.drop_before_v !== null && (
        <p className="text-sm">
          The total path then drops <span className="figure text-teal">{fixed(told.drop_v, 2)} V</span> at the
          peak, after {fixed(told.drop_before_v, 2)} V.
        </p>
      )}
      <Button strong className="mt-2" onClick={onTake}>
        Take it as measured
      </Button>
    </div>
  );
}
