import { useId, useState } from "react";

import { Input } from "./Input";
import { full, readNumber } from "./number";
import { Terms } from "../guide/Terms";

interface Props {
  label: string;
  value: number;
  unit?: string;
  width?: string;
  onChange: (value: number) => void;
}

/** A labelled number outside a job file: taken over as soon as it is one; a decimal comma is understood. */
export function NumberBox({ label, value, unit, width = "w-28", onChange }: Props) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const text = draft ?? full(value);
  const wrong = draft !== null && "wrong" in readNumber(draft);
  return (
    <div>
      <label htmlFor={id} className="text-soft block text-sm">
        <Terms beside>{label}</Terms>
        {unit && `, ${unit}`}
      </label>
      <Input
        id={id}
        inputMode="decimal"
        wrong={wrong}
        className={`figure text-right ${width}`}
        value={text}
        onChange={(event) => {
          setDraft(event.target.value);
          const written = readNumber(event.target.value);
          if ("number" in written) onChange(written.number);
        }}
        onBlur={() => setDraft(null)}
      />
    </div>
  );
}
