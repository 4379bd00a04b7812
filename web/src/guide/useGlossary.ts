import { useEffect, useState } from "react";

import { entriesOf, type Entry } from "./glossary";

let known: Entry[] | null = null;

/** The glossary, once it is here: it comes after the page that links to it. */
export function useGlossary(): Entry[] | null {
  const [entries, setEntries] = useState(known);
  useEffect(() => {
    if (known !== null) return;
    let gone = false;
    void import("../../../docs/guide/glossary.md?raw").then(({ default: file }) => {
      known ??= entriesOf(file);
      if (!gone) setEntries(known);
    });
    return () => {
      gone = true;
    };
  }, []);
  return entries;
}
