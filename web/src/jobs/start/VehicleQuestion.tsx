import { same } from "../../api/same";
import { SelectField } from "../../job/SelectField";
import { SystemVolts } from "../../job/SystemVolts";
import { TextField } from "../../job/TextField";
import { useWork } from "../../job/WorkContext";
import { Question } from "./Question";
import type { Start } from "./StartPage";

const DRIVES = [
  ["combustion", "combustion engine"],
  ["hybrid", "hybrid"],
  ["electric", "electric, no engine"],
] as const;

/** Which car: another kind brings its usual supply along, but never over what was put in already. */
export function VehicleQuestion({ starts }: { starts: Start[] }) {
  const { job, change } = useWork();
  const pick = (name: string) => {
    const next = starts.find((each) => each.name === name)?.document;
    const usual = starts.find((each) => each.name === job.vehicle.template)?.document;
    if (!next) return;
    change("vehicle", next.vehicle);
    if (same(job.chargers, usual?.chargers)) change("chargers", next.chargers);
    if (same(job.banks, usual?.banks)) change("banks", next.banks);
  };
  return (
    <Question number={1} title="The vehicle">
      <TextField path="title" label="Called" />
      <SelectField
        path="vehicle.template"
        label="Kind"
        options={starts.map((each) => [each.name, each.words] as const)}
        onPick={pick}
      />
      <SelectField path="vehicle.drive" label="Drive" options={DRIVES} />
      <SystemVolts />
    </Question>
  );
}
