import { Input } from "./Input";
import { readNumber } from "./number";
import { Terms } from "../guide/Terms";

interface Props {
  label: string;
  /** What a screen reader says, where the label alone says too little. */
  spoken?: string;
  /** What leads to it (see `fieldOf`). */
  field?: string;
  value: string;
  width?: string;
  onChange: (text: string) => void;
}

/** A figure that is typed into a form and sent with it: marked where it is no number. */
export function FigureInput({ label, spoken, field, value, width = "w-24", onChange }: Props) {
  const wrong = value.trim() !== "" && "wrong" in readNumber(value);
  return (
    <label className="text-soft text-sm">
      <Terms beside>{label}</Terms>
      <Input
        inputMode="decimal"
        autoComplete="off"
        aria-label={spoken}
        data-field={field}
        wrong={wrong}
        className={`figure block text-right ${width}`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}
