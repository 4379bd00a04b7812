import { SelectField } from "./SelectField";
import { useWork } from "./WorkContext";

const USUAL = ["12", "24", "48"];

/** What the vehicle's system is made for: what nobody stated of its parts follows. */
export function SystemVolts() {
  const { job, change } = useWork();
  const stated = String(job.vehicle.system_v ?? 12);
  const all = USUAL.includes(stated) ? USUAL : [stated, ...USUAL];
  return (
    <SelectField
      path="vehicle.system_v"
      label="System"
      options={all.map((volts) => [volts, `${volts} V`] as const)}
      fallback="12"
      onPick={(volts) => change("vehicle.system_v", Number(volts))}
    />
  );
}
