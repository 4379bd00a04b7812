import type { AmplifierResult } from "../api/client";
import { halfBand } from "../ui/format";

/** Half of the band of the watts over the programme: that of the loudest moment, in proportion. */
export function meanBand({ delivered_w, delivered_mean_w, low_w, high_w }: AmplifierResult): number {
  const share = delivered_w > 0 ? delivered_mean_w / delivered_w : 0;
  return share * halfBand({ low: low_w, high: high_w });
}
