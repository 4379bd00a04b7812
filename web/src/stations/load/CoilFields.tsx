import type { Quantity } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";

/** How many drivers and coils, and their ohms; other numbers want another wiring, so the chosen one is asked for anew. */
export function CoilFields({ index }: { index: number }) {
  const { job, change } = useWork();
  const at = `amplifiers.${index}.load` as const;
  const load = job.amplifiers?.[index]?.load;
  const count = (field: "drivers" | "coils_per_driver") => (quantity: Quantity | null) => {
    const isSame = valueOf(quantity) === valueOf(load?.[field]);
    change(at, { ...load, [field]: quantity, ...(isSame ? {} : { wiring: null }) });
  };
  return (
    <>
      <QuantityField path={`${at}.drivers`} label="Drivers" onGive={count("drivers")} />
      <QuantityField path={`${at}.coils_per_driver`} label="Coils each" onGive={count("coils_per_driver")} />
      <QuantityField path={`${at}.coil_ohm`} label="Ohms a coil" unit="Ω" />
    </>
  );
}
