import type { ReadingResult } from "../../api/client";

export interface Mark {
  row: number;
  words: string;
  /** In half bands from the prediction: −1 to 1 is inside. */
  at: number;
  /** Whether it lies farther out than the picture reaches. */
  beyond: boolean;
  /** Where it lies by the corrected car; null where nothing was corrected by it. */
  corrected: number | null;
  suspect: boolean;
  inside: boolean;
}

export const REACH = 3;

/** Each reading as a place in bands, as the job stands and as corrected. */
export function marksOf(readings: readonly ReadingResult[]): Mark[] {
  return readings.flatMap((each) => {
    if (each.share === null || each.inside === null) return [];
    return {
      row: each.row,
      words: each.words,
      at: held(each.share),
      beyond: Math.abs(each.share) > REACH,
      corrected: correctedShare(each),
      suspect: each.suspect,
      inside: each.inside,
    };
  });
}

function correctedShare(each: ReadingResult): number | null {
  const { corrected, corrected_low: low, corrected_high: high, measured } = each;
  if (corrected === null || low === null || high === null) return null;
  const off = measured - corrected;
  const half = off > 0 ? high - corrected : corrected - low;
  return half > 0 ? held(off / half) : 0;
}

function held(share: number): number {
  return Math.min(Math.max(share, -REACH), REACH);
}
