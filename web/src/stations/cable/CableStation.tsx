import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import type { CableResult, SizesWanted } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { LINK_BUTTON } from "../../ui/Button";
import { Tabs } from "../../ui/Tabs";
import { AtOnce } from "../AtOnce";
import { Cautions } from "../Cautions";
import { Split } from "../Split";
import { CableFields } from "./CableFields";
import { CablesTable } from "./CablesTable";
import { FusesView } from "./FusesView";
import { LayoutChanges } from "./LayoutChanges";
import { ScheduleView } from "./ScheduleView";
import { SizesView } from "./SizesView";
import { useCableChoices, useCablePlan } from "./useCable";
import { SpeakerLeadFields, SpeakerLeadsView } from "./SpeakerLeadsView";

const VIEWS = [
  ["sizes", "Path and sizes"],
  ["fuses", "Fuses"],
  ["leads", "Speaker leads"],
  ["schedule", "Schedule"],
] as const;
type View = (typeof VIEWS)[number][0];

/** The cables from the charger to the drivers: what each drops and carries, its size, its fuses, and the cut list. */
export function CableStation() {
  const { id, forecast } = useWork();
  const [query, setQuery] = useSearchParams();
  const view = VIEWS.find(([key]) => key === query.get("view"))?.[0] ?? "sizes";
  const cables = forecast?.cables ?? [];
  const chosen = query.get("cable");
  const index = Math.max(
    cables.findIndex((each) => each.name === chosen),
    0,
  );
  const cable = cables[index];
  const set = (part: Record<string, string>) =>
    setQuery({ ...Object.fromEntries(query), ...part }, { replace: true });
  const choose = (name: string) => set({ cable: name });
  const setView = (picked: View) => set({ view: picked });
  const fields = cable ? <CableFields cable={cable} /> : <LayoutChanges />;
  return (
    <Split given={view === "schedule" ? null : view === "leads" ? <SpeakerLeadFields /> : fields}>
      <Tabs label="Views of the cables" value={view} options={VIEWS} onChange={setView}>
        {view === "schedule" ? (
          <ScheduleView />
        ) : view === "leads" ? (
          <SpeakerLeadsView />
        ) : !forecast ? (
          <p className="text-soft">Working it out …</p>
        ) : !cable ? (
          <>
            <p className="mb-3">
              No cable yet: an amplifier brings its lead along. A battery or a charger has to supply it.
            </p>
            <Link className={LINK_BUTTON} to={`/jobs/${id}/amplifiers`}>
              Pick an amplifier
            </Link>
          </>
        ) : view === "fuses" ? (
          <FusesView cables={cables} chosen={index} onChoose={choose} />
        ) : (
          <PathAndSizes cables={cables} cable={cable} index={index} onChoose={choose} />
        )}
      </Tabs>
      <Cautions station="cable" />
    </Split>
  );
}

interface PathProps {
  cables: CableResult[];
  cable: CableResult;
  index: number;
  onChoose: (name: string) => void;
}

function PathAndSizes({ cables, cable, index, onChoose }: PathProps) {
  const [wanted, want] = useState<SizesWanted>({});
  const choices = useCableChoices(index, wanted);
  const asked = [useCablePlan(), choices];
  return (
    <AtOnce settled={asked.every(({ data, isError }) => data !== undefined || isError)}>
      <CablesTable cables={cables} chosen={index} onChoose={onChoose} />
      <SizesView cable={cable} choices={choices} wanted={wanted} onWant={want} />
      <LayoutChanges />
    </AtOnce>
  );
}
