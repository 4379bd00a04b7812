import { Tab, TabGroup, TabList, TabPanel, TabPanels } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  /** The view that is open. */
  children: ReactNode;
}

/** Views of one thing, side by side as words; the open one is underlined and shown below. */
export function Tabs<T extends string>({ label, value, options, onChange, children }: Props<T>) {
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
            className="hover:bg-sunk data-selected:border-copper h-11 border-b-3 border-transparent px-4 data-selected:font-bold max-sm:px-2.5"
          >
            {words}
          </Tab>
        ))}
      </TabList>
      <TabPanels>
        {options.map(([key]) => (
          <TabPanel key={key} tabIndex={-1}>
            {key === value && children}
          </TabPanel>
        ))}
      </TabPanels>
    </TabGroup>
  );
}
