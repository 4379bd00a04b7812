import { useCallback, useId, useState } from "react";

import type { Origin, Quantity } from "../api/client";
import { getAt, originOf, valueOf } from "../api/quantity";
import { plain } from "../ui/format";
import { OriginMark } from "../ui/OriginMark";
import { useWork } from "./WorkContext";

interface Props {
  path: string;
  label: string;
  unit?: string;
  /** How many shown units make one of the file's: 1000 shows milliohms. */
  per?: number;
  /** Whether an empty field is allowed and what it means. */
  empty?: string;
}

/** A number of the job file: value, unit, where it comes from, and what is wrong with it. */
export function QuantityField({ path, label, unit = "", per = 1, empty }: Props) {
  const { job, problem, change } = useWork();
  const id = useId();
  const quantity = getAt(job, path) as Quantity | null | undefined;
  const stored = valueOf(quantity);
  const origin = originOf(quantity);
  const [draft, setDraft] = useState<string | null>(null);
  const wrong =
    problem && (problem.field === path || problem.field.startsWith(`${path}.`)) ? problem.message : null;
  const shown = stored === null ? "" : plain(stored * per).replace("−", "-");

  const mark = useCallback(
    (next: Origin) => stored !== null && change(path, quantityOf(stored, next)),
    [change, path, stored],
  );
  const give = (text: string) => {
    setDraft(text);
    const number = Number(text.trim().replace(",", "."));
    if (text.trim() === "") {
      if (empty !== undefined) change(path, null);
    } else if (Number.isFinite(number)) {
      // What somebody enters is no longer an assumption.
      change(path, quantityOf(number / per, origin === "assumed" ? "typed" : origin));
    }
  };
  const notANumber =
    draft !== null && draft.trim() !== "" && !Number.isFinite(Number(draft.trim().replace(",", ".")));
  const complaint = notANumber ? `“${draft}” is not a number.` : wrong;

  return (
    <div className="border-rule border-b py-0.5">
      <div className="flex items-center justify-between gap-2">
        <div className="leading-tight">
          <label htmlFor={id} className="block">
            {label}
          </label>
          {stored !== null && <OriginMark of={label} origin={origin} onChange={mark} />}
        </div>
        <span className="flex shrink-0 items-baseline gap-1">
          <input
            id={id}
            inputMode="decimal"
            className={`figure focus:bg-sheet h-11 w-21 rounded-sm border bg-transparent px-1.5 text-right text-lg placeholder:text-sm placeholder:font-normal ${complaint ? "border-vermilion" : "hover:border-rule border-transparent"}`}
            value={draft ?? shown}
            placeholder={empty}
            onChange={(event) => give(event.target.value)}
            onBlur={() => setDraft(null)}
            aria-invalid={complaint !== null}
            aria-describedby={complaint ? `${id}-wrong` : undefined}
          />
          <span className="text-soft w-7 text-sm">{unit}</span>
        </span>
      </div>
      {complaint && (
        <p id={`${id}-wrong`} role="alert" className="text-vermilion text-sm">
          <span aria-hidden>◆ </span>
          {complaint}
        </p>
      )}
    </div>
  );
}

function quantityOf(value: number, origin: Origin): Quantity {
  return origin === "typed" ? value : { value, origin };
}
