import { Link } from "react-router";

import { valueOf } from "../../api/quantity";
import { useView } from "../../job/useView";
import { useWork } from "../../job/WorkContext";
import { LINK_BUTTON } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Tabs } from "../../ui/Tabs";
import { Cautions } from "../Cautions";
import { Split } from "../Split";
import { CurvesView } from "./CurvesView";
import { GivenLoad } from "./GivenLoad";
import { HeatView } from "./HeatView";
import { ReadingsView } from "./ReadingsView";
import { useChosen } from "./useChosen";
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
  const { id, job } = useWork();
  const loaded = (job.amplifiers ?? []).flatMap((amplifier, index) =>
    amplifier.load ? [{ amplifier, index }] : [],
  );
  const [chosen, choose] = useChosen(loaded.map((each) => each.amplifier.id));
  const [view, setView] = useView("view", VIEWS, "watts");
  const one = loaded.find((each) => each.amplifier.id === chosen);
  if (!one)
    return (
      <div className="px-5 py-4">
        <p className="mb-3">No amplifier with a load yet: it decides what the drivers are wired to.</p>
        <Link className={LINK_BUTTON} to={`/jobs/${id}/amplifiers`}>
          Pick an amplifier
        </Link>
      </div>
    );
  const { amplifier, index } = one;
  const oneOutput = (amplifier.speaker_terminals ?? 1) > 1 && (valueOf(amplifier.channels) ?? 1) === 1;
  return (
    <Split given={<GivenLoad key={index} index={index} name={amplifier.name} />}>
      {loaded.length > 1 && (
        <label className="mb-2 block">
          Load of{" "}
          <Select value={chosen} onChange={(event) => choose(event.target.value)}>
            {loaded.map((each) => (
              <option key={each.amplifier.id} value={each.amplifier.id}>
                {each.amplifier.name}
              </option>
            ))}
          </Select>
        </label>
      )}
      <Tabs label="Views of the load" value={view} options={VIEWS} onChange={setView}>
        {oneOutput && view === "wiring" && (
          <p className="mb-2 text-sm">
            ▪ Its {amplifier.speaker_terminals} pairs of speaker terminals are one output: drivers on both are
            in parallel, and the load below is that of all of them.
          </p>
        )}
        {view === "wiring" ? (
          <WiringView index={index} name={amplifier.name} />
        ) : (
          <Curves view={view} index={index} id={amplifier.id} />
        )}
      </Tabs>
      <Cautions station="load" />
    </Split>
  );
}

function Curves({ view, index, id }: { view: Exclude<View, "wiring">; index: number; id: string }) {
  const { forecast } = useWork();
  const load = useLoadCurves(index);
  const report = forecast?.amplifiers.find((each) => each.id === id);
  if (load.error) return <Complaint>{load.error.message}</Complaint>;
  if (!load.data || !report) return <p className="text-soft py-6">Working it out …</p>;
  if (view === "curves") return <CurvesView key={load.data.tone_hz} index={index} load={load.data} />;
  if (view === "heat") return <HeatView index={index} load={load.data} />;
  if (view === "readings") return <ReadingsView index={index} told={load.data.told} />;
  return <WattsView report={report} load={load.data} />;
}
