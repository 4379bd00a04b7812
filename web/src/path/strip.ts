import type { Forecast } from "../api/client";
import { labels, LINE, rowsBelow, type Label, type Measure } from "./labels";
import { columns, layout, type Box, type Layout } from "./layout";

export interface Strip extends Layout {
  labels: Label[];
  width: number;
  height: number;
}

/** A letter at most, on the average, where nobody can measure; a column is no narrower than a word of figures. */
const LETTER = 8.4;
const LEAST = { width: 640, column: 96 };
const AROUND = { top: 44, bottom: 24, left: 6, edge: 3 };
/** Beside the coils: two short lines, or one where rows of several amplifiers are low. */
const RIGHT = { one: 104, several: 140 };
const [FIRST_ROW, NEXT_ROW] = [226, 62];

export const roughly: Measure = (text) => LETTER * text.length;

/** How high the strip of some amplifiers is: known before any forecast, so that nothing moves when one comes. */
export function heightOf(amplifiers: number): number {
  return FIRST_ROW + NEXT_ROW * Math.max(0, amplifiers - 1);
}

/**
 * The whole strip in the width that there is. Words that find no room beside their joints take rows from the drawing,
 * which keeps its height; only where these are more than half of it does it grow.
 */
export function strip(forecast: Forecast, room: number, measure: Measure = roughly): Strip {
  const width = Math.max(room, LEAST.width, columns(forecast) * LEAST.column);
  const least = heightOf(forecast.amplifiers.length);
  const right = forecast.amplifiers.length > 1 ? RIGHT.several : RIGHT.one;
  const attempt = (rows: number): Strip & { rows: number } => {
    const taken = rows * (LINE + 2);
    const height = Math.max(least, least / 2 + taken);
    const frame: Box = {
      x: AROUND.edge,
      y: AROUND.edge,
      width: width - 2 * AROUND.edge,
      height: height - 2 * AROUND.edge,
    };
    const floor = frame.y + frame.height - taken;
    const made = layout(forecast, {
      x: AROUND.left,
      y: AROUND.top,
      width: width - AROUND.left - right,
      height: floor - AROUND.top - AROUND.bottom,
    });
    const placed = labels(made, frame, floor, measure);
    return { ...made, labels: placed, width, height, rows: rowsBelow(placed, floor) };
  };
  let made = attempt(0);
  for (let rows = made.rows; rows > 0 && made.rows > 0; rows = Math.max(rows + 1, made.rows)) {
    made = attempt(rows);
    if (made.rows <= rows) break;
  }
  return made;
}
