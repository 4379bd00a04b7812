interface Props {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}

/** Something that is ticked or not, as large as a finger. */
export function CheckBox({ label, checked, onChange }: Props) {
  return (
    <label className="flex min-h-11 items-center gap-2 text-sm">
      <input
        type="checkbox"
        className="size-5 shrink-0"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
