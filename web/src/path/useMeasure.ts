import { useEffect, useState } from "react";

import type { Measure } from "./labels";
import { roughly } from "./strip";

const SIZE = 14;
const FAMILY = '"Atkinson Hyperlegible Next Variable", sans-serif';

const PATIENCE_MS = 1000;

/**
 * How wide the strip's own letters are in this browser; null until they are here, so that no word moves for them. On a
 * slow line, roughly: the path is not kept from anybody for its letters.
 */
export function useMeasure(): Measure | null {
  const [measure, setMeasure] = useState<Measure | null>(() => known);
  useEffect(() => {
    let gone = false;
    const patience = setTimeout(() => setMeasure((before: Measure | null) => before ?? roughly), PATIENCE_MS);
    void letters().then((found) => {
      if (!gone) setMeasure(() => found);
    });
    return () => {
      gone = true;
      clearTimeout(patience);
    };
  }, []);
  return measure;
}

let known: Measure | null = null;

async function letters(): Promise<Measure> {
  const pen = document.createElement("canvas").getContext("2d");
  if (!pen || !("fonts" in document)) return roughly;
  // Letters that cannot be had are measured as what stands in for them.
  await Promise.allSettled([400, 700].map((weight) => document.fonts.load(`${weight} ${SIZE}px ${FAMILY}`)));
  return (known ??= measuredBy(pen));
}

function measuredBy(pen: CanvasRenderingContext2D): Measure {
  const widths = new Map<string, number>();
  return (text, bold) => {
    const key = `${bold ? "b" : ""}${text}`;
    const before = widths.get(key);
    if (before !== undefined) return before;
    pen.font = `${bold ? 700 : 400} ${SIZE}px ${FAMILY}`;
    const width = pen.measureText(text).width + 2;
    widths.set(key, width);
    return width;
  };
}
