import { Radio, RadioGroup } from "@headlessui/react";

interface Props<T extends string> {
  label: string;
  /** Whether the options say enough where there is little room. */
  terse?: boolean;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

/** One of a few, all in view. */
export function Choice<T extends string>({ label, terse = false, value, options, onChange }: Props<T>) {
  return (
    <div className="flex max-w-full min-w-0 items-center gap-2">
      <span className={`text-soft text-sm ${terse ? "max-sm:sr-only" : ""}`}>{label}</span>
      <RadioGroup
        aria-label={label}
        value={value}
        onChange={onChange}
        className="border-ink flex min-w-0 flex-wrap rounded-sm border"
      >
        {options.map(([key, words]) => (
          <Radio
            key={key}
            value={key}
            className="data-checked:bg-ink data-checked:text-sheet grid h-11 min-w-11 cursor-pointer place-items-center px-3 data-checked:font-bold max-sm:px-2.5"
          >
            {words}
          </Radio>
        ))}
      </RadioGroup>
    </div>
  );
}
