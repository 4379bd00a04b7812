import { Terms } from "../guide/Terms";
import { Select } from "./Select";

interface Props<T extends string> {
  label: string;
  value: T | "";
  options: readonly (readonly [T, string])[];
  /** What stands for no choice, where that is allowed. */
  none?: string;
  needed?: boolean;
  className?: string;
  onChange: (value: T | "") => void;
}

/** A labelled choice outside a job file. */
export function SelectBox<T extends string>({
  label,
  value,
  options,
  none,
  needed = false,
  className = "",
  onChange,
}: Props<T>) {
  return (
    <label className="text-soft text-sm">
      <Terms beside>{label}</Terms>
      {needed && <span aria-hidden> *</span>}
      <Select
        className={`block ${className}`}
        required={needed}
        value={value}
        onChange={(event) => onChange(options.find(([key]) => key === event.target.value)?.[0] ?? "")}
      >
        {none !== undefined && <option value="">{none}</option>}
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Select>
    </label>
  );
}
