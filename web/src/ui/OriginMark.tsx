import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

import type { Origin } from "../api/client";
import { termIn } from "../guide/glossary";
import { useGlossary } from "../guide/useGlossary";

const MARKS: Record<Origin, string> = { measured: "●", typed: "◐", assumed: "○" };
const HELP: Record<Origin, string> = {
  measured: "read with a meter in this car or on the bench",
  typed: "from a label, a data sheet or the customer",
  assumed: "a usual value; measure it if it matters",
};
const ORIGINS: Origin[] = ["measured", "typed", "assumed"];

interface Props {
  of: string;
  origin: Origin;
  /** The id that its field is named by: the name and the mark are one target then, as large as a finger. */
  labelId?: string;
  onChange?: (origin: Origin) => void;
}

/** Typed, measured or assumed: always by mark and word, changed in place. */
export function OriginMark({ of, origin, labelId, onChange }: Props) {
  const glossary = useGlossary();
  const meaning = glossary && termIn(of, glossary)?.entry;
  const colour = origin === "assumed" ? "text-ochre" : "text-soft";
  const words = (
    <>
      <span aria-hidden>{MARKS[origin]}</span> {origin}
    </>
  );
  if (!onChange) return <span className={`text-xs ${colour}`}>{words}</span>;
  return (
    <Listbox value={origin} onChange={onChange}>
      <ListboxButton
        aria-label={`${of}: ${origin}`}
        className="-ml-1 min-h-11 min-w-0 rounded-sm px-1 text-left leading-tight hover:underline"
      >
        <span id={labelId} className="block">
          {of}
        </span>
        <span className={`block text-xs ${colour}`}>{words}</span>
      </ListboxButton>
      <ListboxOptions
        anchor="bottom start"
        className="bg-sheet border-ink z-20 w-72 border shadow-lg focus:outline-none"
      >
        {meaning && (
          <p className="border-rule border-b px-3 py-2 text-sm">{`${meaning.word}: ${meaning.meaning}.`}</p>
        )}
        {ORIGINS.map((each) => (
          <ListboxOption
            key={each}
            value={each}
            className="data-focus:bg-sunk flex min-h-11 cursor-pointer flex-col px-3 py-1"
          >
            <span>
              <span aria-hidden>{MARKS[each]}</span> {each}
            </span>
            <span className="text-soft text-xs">{HELP[each]}</span>
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
