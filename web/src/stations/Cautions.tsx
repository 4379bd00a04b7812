import { useWork } from "../job/WorkContext";
import type { Station } from "../job/stations";
import { CautionList } from "../ui/CautionList";

/** The cautions that belong to a station, beside its work. */
export function Cautions({ station }: { station: Station }) {
  const { forecast } = useWork();
  return <CautionList cautions={forecast?.cautions[station] ?? []} />;
}
