import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState } from "react";

import type { FigureData, Origin } from "../api/client";
import { Terms } from "../guide/Terms";
import { Button } from "./Button";
import { figureText, halfBand, readable } from "./format";
import { inWords } from "./writing";
import { OriginMark } from "./OriginMark";
import { Symbols } from "./Symbols";

const TONES = {
  ink: "text-ink",
  copper: "text-copper",
  teal: "text-teal",
  vermilion: "text-vermilion",
  ochre: "text-ochre",
};
export type Tone = keyof typeof TONES;

interface Props {
  figure: FigureData;
  tone?: Tone;
  size?: "large" | "medium";
}

/** A headline figure; opening it shows the sum behind it. */
export function Figure({ figure, tone = "ink", size = "large" }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        className={`group -my-1.5 min-h-11 min-w-11 rounded-sm text-right whitespace-nowrap ${TONES[tone]}`}
        onClick={() => setOpen(true)}
        aria-label={`${figure.name}: ${figureText(figure)} ${figure.unit}, show the sum`}
        data-sum
      >
        <span
          className={`figure underline decoration-dotted decoration-1 underline-offset-4 group-hover:decoration-solid ${size === "large" ? "text-[22px]" : "text-base"}`}
        >
          {figureText(figure)}
        </span>{" "}
        <span className="text-soft text-sm">{figure.unit}</span>
      </button>
      <TheSum figure={figure} open={open} onClose={() => setOpen(false)} />
    </>
  );
}

function TheSum({ figure, open, onClose }: { figure: FigureData; open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-30">
      <div className="fixed inset-0 bg-black/35" aria-hidden />
      <div className="fixed inset-0 flex justify-end">
        <DialogPanel className="bg-sheet border-ink h-full w-full max-w-xl overflow-y-auto border-l p-6 shadow-2xl">
          <div className="flex items-start justify-between gap-4">
            <DialogTitle className="text-lg font-bold">The sum</DialogTitle>
            <Button onClick={onClose}>Close</Button>
          </div>
          <Step figure={figure} depth={0} />
        </DialogPanel>
      </div>
    </Dialog>
  );
}

/** One figure of the sum with what it rests on; deeper ones open on demand. */
function Step({ figure, depth }: { figure: FigureData; depth: number }) {
  const [value, unit] = readable(figure.value, figure.unit, halfBand(figure));
  const given = figure.origin === "measured" || figure.origin === "typed" || figure.origin === "assumed";
  const head = (
    <span className="flex flex-wrap items-baseline justify-between gap-x-3">
      <span>
        <span className="figure text-soft mr-2 text-sm">
          <Symbols>{figure.symbol}</Symbols>
        </span>
        <Terms>{figure.name}</Terms>{" "}
        {depth > 0 && given && <OriginMark of={figure.name} origin={figure.origin as Origin} />}
      </span>
      <span>
        <span className="figure text-lg">{value}</span> <span className="text-soft text-sm">{unit}</span>
      </span>
    </span>
  );
  const body = (
    <div className="pb-1">
      {figure.note && <p className="text-soft text-sm">{inWords(figure.note)}</p>}
      {figure.formula && (
        <p className="bg-sunk figure mt-1 px-2 py-1.5 text-sm leading-relaxed font-normal">
          <Symbols>{`${figure.symbol} = ${figure.formula}`}</Symbols>
          <br />= {inWords(figure.substituted)} = {value} {unit}
        </p>
      )}
      <Band figure={figure} />
      <p className="text-soft text-xs">
        {figure.source && <span> {figure.source}</span>}
        {!given && figure.estimate && (
          <span className="text-ochre">an estimate: it rests on something assumed</span>
        )}
      </p>
    </div>
  );
  const parts = figure.inputs.length > 0 && (
    <div className="border-rule ml-1 border-l pl-3">
      {figure.inputs.map((part) => (
        <Step key={part.symbol} figure={part} depth={depth + 1} />
      ))}
    </div>
  );
  if (depth < 1)
    return (
      <div className="mt-4">
        <div className="text-lg">{head}</div>
        {body}
        {parts}
      </div>
    );
  return (
    <details className="border-rule border-t py-2">
      <summary className="min-h-11 cursor-pointer list-outside">{head}</summary>
      {body}
      {parts}
    </details>
  );
}

function Band({ figure }: { figure: FigureData }) {
  if (figure.low === null || figure.high === null) return null;
  const half = halfBand(figure);
  const [low] = readable(figure.low, figure.unit, half);
  const [high, unit] = readable(figure.high, figure.unit, half);
  return (
    <p className="text-sm">
      Between <span className="figure">{low}</span> and <span className="figure">{high}</span> {unit}, as far
      as the readings tell.
    </p>
  );
}
