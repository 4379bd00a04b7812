import { useChosen } from "../load/useChosen";
import { useWork } from "../../job/WorkContext";
import { Select } from "../../ui/Select";
import { HeatRunForm } from "./HeatRunForm";
import { ImpedanceRecordingForm } from "./ImpedanceRecordingForm";
import { SweepLogForm } from "./SweepLogForm";

/** What takes more than one number: temperatures over time, sweeps of everything, impedance from a recording. */
export function MoreView() {
  const { job } = useWork();
  const amplifiers = job.amplifiers ?? [];
  const [chosen, choose] = useChosen(amplifiers.map((each) => each.id));
  const index = amplifiers.findIndex((each) => each.id === chosen);
  if (index < 0 || chosen === undefined)
    return <p className="py-3">There is no amplifier in this job yet.</p>;
  return (
    <>
      {amplifiers.length > 1 && (
        <label className="mb-3 block">
          Of{" "}
          <Select value={chosen} onChange={(event) => choose(event.target.value)}>
            {amplifiers.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </Select>
        </label>
      )}
      <SweepLogForm key={`sweep ${chosen}`} amplifier={chosen} />
      <HeatRunForm key={`heat ${chosen}`} index={index} />
      <ImpedanceRecordingForm key={`ohms ${chosen}`} index={index} />
    </>
  );
}
