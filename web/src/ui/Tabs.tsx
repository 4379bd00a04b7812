import { Tab, TabGroup, TabList } from "@headlessui/react";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

/** Views of one thing, side by side as words; the open one is underlined. */
export function Tabs<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <TabGroup
      selectedIndex={options.findIndex(([key]) => key === value)}
      onChange={(at) => {
        const picked = options[at];
        if (picked) onChange(picked[0]);
      }}
    >
      <TabList aria-label={label} className="border-rule mb-4 flex flex-wrap gap-1 border-b print:hidden">
        {options.map(([key, words]) => (
          <Tab
            key={key}
            className="hover:bg-sunk data-selected:border-copper h-11 border-b-3 border-transparent px-4 data-selected:font-bold"
          >
            {words}
          </Tab>
        ))}
      </TabList>
    </TabGroup>
  );
}
