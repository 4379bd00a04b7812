import { QuantityField } from "../../job/QuantityField";
import { SelectField } from "../../job/SelectField";
import { useWork } from "../../job/WorkContext";
import { CHEMISTRIES, CHARGERS } from "../../stations/supply/kinds";
import { Question } from "./Question";

/** What charges, and the battery. */
export function SupplyQuestion() {
  const { job } = useWork();
  const alternator = job.chargers[0]?.kind === "alternator";
  return (
    <Question number={2} title="Charger and battery">
      <SelectField path="chargers.0.kind" label="Charged by" options={CHARGERS} />
      {alternator ? (
        <>
          <QuantityField path="chargers.0.rated_a" label="Rated output" unit="A" empty="unknown" />
          <QuantityField path="chargers.0.idle_a" label="Output at idle" unit="A" empty="unknown" />
        </>
      ) : (
        <QuantityField path="chargers.0.limit_a" label="Its limit" unit="A" empty="unknown" />
      )}
      <SelectField path="banks.0.chemistry" label="Battery" options={CHEMISTRIES} />
      <QuantityField path="banks.0.capacity_ah" label="Capacity" unit="Ah" />
    </Question>
  );
}
