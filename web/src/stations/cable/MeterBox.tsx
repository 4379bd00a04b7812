import { useId } from "react";
import { Input } from "../../ui/Input";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
}

/** A reading that somebody types in from a meter; a decimal comma is understood. */
export function MeterBox({ label, value, onChange }: Props) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="text-soft block text-sm">
        {label}
      </label>
      <Input
        id={id}
        inputMode="decimal"
        className="figure w-28 text-right"
        value={value}
        onChange={(event) => onChange(event.target.value.replace(",", ".").replace(/[^\d.]/g, ""))}
      />
    </div>
  );
}
