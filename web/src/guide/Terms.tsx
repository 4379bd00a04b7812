import { useState } from "react";
import { Link } from "react-router";

import { Modal } from "../ui/Modal";
import { termIn } from "./glossary";
import { useGlossary } from "./useGlossary";

/**
 * A label, heading or name in which the longest word of the glossary leads to what it means. Beside a field it is not
 * a stop of the keyboard's: that goes from field to field.
 */
export function Terms({ children: text, beside = false }: { children: string; beside?: boolean }) {
  const glossary = useGlossary();
  const [open, setOpen] = useState(false);
  const found = glossary && termIn(text, glossary);
  if (!found) return <>{text}</>;
  const { before, term, after, entry } = found;
  const to = `/guide/glossary#${entry.slug}`;
  return (
    <>
      {before}
      <a
        href={to}
        data-term
        className="decoration-rule hover:decoration-ink underline decoration-dotted underline-offset-4"
        tabIndex={beside ? -1 : undefined}
        onClick={(event) => {
          event.preventDefault();
          setOpen(true);
        }}
      >
        {term}
      </a>
      {after}
      {open && (
        <Modal title={entry.word} open onClose={() => setOpen(false)} width="max-w-md" closable>
          <p className="mt-3">{entry.meaning}.</p>
          <p className="mt-3">
            <Link className="inline-block min-h-11 py-2.5 underline underline-offset-4" to={to}>
              All words
            </Link>
          </p>
        </Modal>
      )}
    </>
  );
}
