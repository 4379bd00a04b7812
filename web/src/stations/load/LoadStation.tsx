import { useState } from "react";

import { valueOf } from "../../api/quantity";
import { useWork } from "../../job/WorkContext";
import { Complaint } from "../../ui/Complaint";
import { Tabs } from "../../ui/Tabs";
import { Cautions } from "../Cautions";
import { Split } from "../Split";
import { CurvesView } from "./CurvesView";
import { GivenLoad } from "./GivenLoad";
import { HeatView } from "./HeatView";
import { ReadingsView } from "./ReadingsView";
import { useLoadCurves } from "./useLoad";
import { WattsView } from "./WattsView";
import { WiringView } from "./WiringView";
import { Select } from "../../ui/Select";

const VIEWS = [
  ["watts", "Watts"],
  ["wiring", "Wiring"],
  ["curves", "Over frequency"],
  ["heat", "Coil heat"],
  ["readings", "Readings"],
] as const;
type View = (typeof VIEWS)[number][0];

/** What each amplifier drives: what arrives and why, how it is wired, and its load over frequency. */
export function LoadStation() {
  const { job } = useWork();
  const loaded = (job.amplifiers ?? []).flatMap((amplifier, index) =>
    amplifier.load ? [{ amplifier, index }] : [],
  );
  const [chosen, setChosen] = useState(0);
  const [view, setView] = useState<View>("watts");
  const one = loaded[Math.min(chosen, loaded.length - 1)];
  if (!one)
    return (
      <div className="px-5 py-4">
        <p className="text-soft">No amplifier with a load yet. Pick one at the Amplifiers station (key 2).</p>
      </div>
    );
  const { amplifier, index } = one;
  const oneOutput = (amplifier.speaker_terminals ?? 1) > 1 && (valueOf(amplifier.channels) ?? 1) === 1;
  return (
    <Split given={<GivenLoad key={index} index={index} name={amplifier.name} />}>
      {loaded.length > 1 && (
        <label className="mb-2 block">
          Load of{" "}
          <Select value={chosen} onChange={(event) => setChosen(Number(event.target.value))}>
            {loaded.map((each, n) => (
              <option key={each.amplifier.id} value={n}>
                {each.amplifier.name}
              </option>
            ))}
          </Select>
        </label>
      )}
      <Tabs label="Views of the load" value={view} options={VIEWS} onChange={setView} />
      {oneOutput && view === "wiring" && (
        <p className="mb-2 text-sm">
          ▪ Its {amplifier.speaker_terminals} pairs of speaker terminals are one output: drivers on both are
          in parallel, and the load below is that of all of them.
        </p>
      )}
      <View view={view} index={index} name={amplifier.name} id={amplifier.id} />
      <Cautions station="load" />
    </Split>
  );
}

function View({ view, index, name, id }: { view: View; index: number; name: string; id: string }) {
  const { forecast } = useWork();
  const load = useLoadCurves(index);
  const report = forecast?.amplifiers.find((each) => each.id === id);
  if (view === "wiring") return <WiringView index={index} name={name} />;
  if (load.error) return <Complaint>{load.error.message}</Complaint>;
  if (!load.data || !report) return <p className="text-soft py-6">Working it out …</p>;
  if (view === "curves") return <CurvesView key={load.data.tone_hz} index={index} load={load.data} />;
  if (view === "heat") return <HeatView index={index} load={load.data} />;
  if (view === "readings") return <ReadingsView index={index} told={load.data.told} />;
  return <WattsView report={report} load={load.data} />;
}
