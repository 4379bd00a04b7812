import { ChevronDown, ChevronUp } from "lucide-react";
import { useEffect, useState, type RefObject } from "react";

import type { FigureData, Forecast } from "../api/client";
import { figureText } from "../ui/format";
import { inWords } from "../ui/writing";
import { SeverityMark, type Severity } from "../ui/SeverityMark";

const VOLTS: Record<Severity, string> = { act: "text-vermilion", caution: "text-ochre", note: "text-teal" };

/** Beside figures that are of before what was typed last; takes no room of its own where they are not. */
export const OLD_WORDS = "of before your change";

interface Props {
  forecast: Forecast | null;
  /** Whether that is of before what was typed last. */
  old: true | undefined;
  /** The drawn path: once it is out of sight, a wide screen shows this line too. */
  path: RefObject<HTMLElement | null>;
  open: boolean;
  onToggle: () => void;
}

/** The path as one line of figures that stays in view; where the ledger has no room beside, a tap opens it. */
export function KeyLine({ forecast, old, path, open, onToggle }: Props) {
  const past = useOutOfSight(path);
  if (!forecast) return null;
  const { figures, flags } = forecast;
  const worst = flags[0];
  const severity = forecast.amplifiers[0]?.terminal_severity ?? "note";
  const act = () => {
    // On a wide screen the ledger stands beside the station, at the top of the page.
    if (window.matchMedia("(min-width: 64rem)").matches) window.scrollTo({ top: 0, behavior: "smooth" });
    else onToggle();
  };
  return (
    // On a wide screen it lies over the page and takes no room of its own: nothing moves when it comes and goes.
    <div
      className={`sticky top-0 z-10 lg:h-0 print:hidden ${past ? "" : "lg:hidden"}`}
      data-key-line
      data-old={old}
    >
      <button
        className="border-rule bg-paper border-b flex min-h-11 w-full items-center gap-x-5 px-5 text-left max-sm:gap-x-3 max-sm:px-4"
        aria-expanded={open}
        onClick={act}
      >
        <span className="sr-only">{open ? "Close" : "Open"} the ledger: at the amplifier</span>
        <span className={`figure font-bold whitespace-nowrap ${VOLTS[severity]}`}>
          {told(figures.terminal_v)}
        </span>
        <span className="figure text-copper font-bold whitespace-nowrap">{told(figures.delivered_w)}</span>
        <span className="figure font-bold whitespace-nowrap">{told(figures.draw_a)}</span>
        <span className="min-w-0 flex-1 truncate text-sm">
          <span className="old-word">{OLD_WORDS}</span>
          <span className="new-word">
            {worst ? (
              <>
                <SeverityMark severity={worst.severity} /> {inWords(worst.text)}
              </>
            ) : (
              <span className="text-soft">nothing flagged</span>
            )}
          </span>
        </span>
        {open ? <ChevronUp size={18} aria-hidden /> : <ChevronDown size={18} aria-hidden />}
      </button>
    </div>
  );
}

function told(figure: FigureData | undefined): string {
  return figure ? `${figureText(figure)} ${figure.unit}` : "–";
}

function useOutOfSight(element: RefObject<HTMLElement | null>): boolean {
  const [out, setOut] = useState(false);
  useEffect(() => {
    if (!element.current) return;
    const observer = new IntersectionObserver(([entry]) => entry && setOut(!entry.isIntersecting));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element]);
  return out;
}
