import { useEffect, useState } from "react";

import type { Measure } from "./labels";
import { roughly } from "./strip";

const SIZE = 14;
const FAMILY = '"Atkinson Hyperlegible Next Variable", sans-serif';

/** How wide the strip's own letters are in this browser, once they are here; roughly before. */
export function useMeasure(): Measure {
  const [measure, setMeasure] = useState<Measure>(() => roughly);
  useEffect(() => {
    const pen = document.createElement("canvas").getContext("2d");
    if (!pen || !("fonts" in document)) return;
    let gone = false;
    const known = new Map<string, number>();
    const exactly: Measure = (text, bold) => {
      const key = `${bold ? "b" : ""}${text}`;
      const before = known.get(key);
      if (before !== undefined) return before;
      pen.font = `${bold ? 700 : 400} ${SIZE}px ${FAMILY}`;
      const width = pen.measureText(text).width + 2;
      known.set(key, width);
      return width;
    };
    void document.fonts.load(`700 ${SIZE}px ${FAMILY}`).then(() => {
      if (!gone) setMeasure(() => exactly);
    });
    return () => {
      gone = true;
    };
  }, []);
  return measure;
}
