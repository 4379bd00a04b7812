interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

/** Views of one thing, side by side as words; the open one is underlined. */
export function Tabs<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <div
      role="tablist"
      aria-label={label}
      className="border-rule mb-4 flex flex-wrap gap-1 border-b print:hidden"
    >
      {options.map(([key, words]) => (
        <button
          key={key}
          role="tab"
          aria-selected={key === value}
          onClick={() => onChange(key)}
          className={`h-11 border-b-3 px-4 ${key === value ? "border-copper font-bold" : "hover:bg-sunk border-transparent"}`}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
