import { useId, useLayoutEffect, useRef, useState } from "react";

import type { Origin, Quantity } from "../api/client";
import type { JobPath } from "../api/path";
import { getAt, originOf, valueOf } from "../api/quantity";
import { plain } from "../ui/format";
import { full, readNumber } from "../ui/number";
import { OriginMark } from "../ui/OriginMark";
import { useWork } from "./WorkContext";
import { Wrong } from "./Wrong";
import { Terms } from "../guide/Terms";

interface Props {
  path: JobPath;
  label: string;
  unit?: string;
  /** How many shown units make one of the file's: 1000 shows milliohms. */
  per?: number;
  /** Whether an empty field is allowed and what it means. */
  empty?: string;
  /** Where a number sets more than the field itself. */
  onGive?: (quantity: Quantity | null) => void;
}

/**
 * A number of the job file: value, unit, where it comes from, and what is wrong with it. Shown short, edited with all
 * its digits; what is no number stands in the job as it was typed, refused like any other value that is not allowed.
 */
export function QuantityField({ path, label, unit = "", per = 1, empty, onGive }: Props) {
  const { job, forecast, problem, change } = useWork();
  const id = useId();
  const quantity = getAt(job, path) as Quantity | null | undefined;
  const raw = rawOf(quantity);
  const origin = originOf(quantity);
  // Of a system of 24 V what nobody stated is not what the file begins with, which is of 12 V.
  const stored = (origin === "assumed" ? forecast?.usual[path] : undefined) ?? valueOf(quantity);
  const [draft, setDraft] = useState<string | null>(null);
  const [editing, setEditing] = useState(false);
  const box = useRef<HTMLInputElement>(null);
  const shownBefore = useRef("");
  const refused = problem && (problem.field === path || problem.field.startsWith(`${path}.`));
  const number = stored === null ? "" : editing ? full(stored * per) : plain(stored * per).replace("−", "-");

  // All its digits have come into the field under the caret: it stands on all of them, so that typing replaces them.
  useLayoutEffect(() => {
    const input = box.current;
    if (editing && input && input.value !== shownBefore.current) input.select();
  }, [editing]);

  const mark = (next: Origin) => stored !== null && change(path, quantityOf(stored, next));
  const give = (text: string) => {
    setDraft(text);
    const written = readNumber(text);
    const take = onGive ?? ((next: Quantity | null) => change(path, next));
    // What somebody enters is no longer an assumption.
    const now = origin === "assumed" ? "typed" : origin;
    if (text.trim() === "" && empty !== undefined) take(null);
    else if ("number" in written) take(quantityOf(written.number / per, now));
    else change(path, now === "typed" ? text : { value: text, origin: now });
  };
  const text = draft ?? raw ?? number;
  const complaint = complaintOf(text, raw !== null) ?? (refused ? problem.reason : null);

  return (
    <div className="border-rule border-b py-0.5">
      <div className="flex items-center justify-between gap-2">
        {stored === null ? (
          <label id={`${id}-label`} htmlFor={id} className="leading-tight">
            <Terms beside>{label}</Terms>
          </label>
        ) : (
          <OriginMark of={label} labelId={`${id}-label`} origin={origin} onChange={mark} />
        )}
        <span className="flex shrink-0 items-baseline gap-1">
          <input
            ref={box}
            id={id}
            aria-labelledby={`${id}-label`}
            data-field={path}
            inputMode="decimal"
            autoComplete="off"
            className={`figure focus:bg-sheet h-11 w-21 rounded-sm border bg-transparent px-1.5 text-right text-lg placeholder:text-sm placeholder:font-normal ${complaint ? "border-vermilion" : "hover:border-rule border-transparent"}`}
            value={text}
            placeholder={empty}
            onFocus={(event) => {
              shownBefore.current = event.target.value;
              setEditing(true);
            }}
            onChange={(event) => give(event.target.value)}
            onBlur={() => {
              setEditing(false);
              setDraft(null);
            }}
            aria-invalid={complaint !== null}
            aria-describedby={complaint ? `${id}-wrong` : undefined}
          />
          <span className="text-soft w-7 text-sm">{unit}</span>
        </span>
      </div>
      <Wrong id={`${id}-wrong`}>{complaint}</Wrong>
    </div>
  );
}

/** What was typed that is no number. */
function rawOf(given: unknown): string | null {
  const value = typeof given === "object" && given !== null && "value" in given ? given.value : given;
  return typeof value === "string" ? value : null;
}

/** What is wrong with what stands in the field, where it is no number. */
function complaintOf(text: string, isRaw: boolean): string | null {
  if (!isRaw) return null;
  if (text.trim() === "") return "A number is needed here.";
  const written = readNumber(text);
  return "wrong" in written ? written.wrong : null;
}

function quantityOf(value: number, origin: Origin): Quantity {
  return origin === "typed" ? value : { value, origin };
}
