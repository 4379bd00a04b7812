import { useId, useState } from "react";

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
  const text = draft ?? String(value);
  const wrong = draft !== null && !isNumber(draft);
  return (
    <div>
      <label htmlFor={id} className="text-soft block text-sm">
        {label}
        {unit && `, ${unit}`}
      </label>
      <input
        id={id}
        inputMode="decimal"
        aria-invalid={wrong}
        className={`bg-sheet figure h-11 rounded-sm border px-2 text-right ${width} ${wrong ? "border-vermilion" : "border-rule"}`}
        value={text}
        onChange={(event) => {
          setDraft(event.target.value);
          if (isNumber(event.target.value)) onChange(Number(event.target.value.replace(",", ".")));
        }}
        onBlur={() => setDraft(null)}
      />
    </div>
  );
}

function isNumber(text: string): boolean {
  return text.trim() !== "" && Number.isFinite(Number(text.replace(",", ".")));
}
