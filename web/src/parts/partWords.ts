import type { PartOut } from "../api/client";
import { plain } from "../ui/format";

type Part = PartOut["part"];

export const KINDS: readonly (readonly [Part["kind"], string])[] = [
  ["charger", "charger"],
  ["bank", "battery"],
  ["capacitor", "capacitors"],
  ["cable", "cable"],
  ["fuse", "fuse"],
  ["return", "ground return"],
  ["strap", "strap"],
  ["isolator", "isolator"],
  ["driver", "driver"],
  ["box", "box"],
  ["amplifier", "amplifier"],
  ["labour", "labour"],
];
export const STOCK: Record<NonNullable<Part["stock"]>, string> = {
  in_stock: "in stock",
  order: "to order",
  second_hand: "second-hand",
  never: "not for this car",
};

/** What a part is, by the figures that matter for its kind. */
export function partWords(part: Part): string {
  const words: (string | null | undefined)[] = [];
  const with_ = (value: number | null | undefined, unit: string) =>
    value != null && words.push(`${plain(value)} ${unit}`);
  with_(part.rated_a, "A rated");
  with_(part.idle_a, "A at idle");
  with_(part.limit_a, "A at most");
  with_(part.capacity_ah, "Ah");
  words.push(part.chemistry);
  with_(part.resistance_ohm == null ? null : part.resistance_ohm * 1000, "mΩ");
  with_(part.farad, "F");
  words.push(part.size);
  if (part.conductor && part.conductor !== "copper") words.push("not pure copper");
  with_(part.amps, "A");
  with_(part.return_ohm == null ? null : part.return_ohm * 1000, "mΩ");
  words.push(part.isolator, part.box_kind?.replace("_", " "));
  with_(part.volume_l, "l");
  with_(part.tuning_hz, "Hz");
  words.push(part.driver, part.amplifier);
  if ((part.system_v ?? 12) !== 12) with_(part.system_v, "V system");
  return words.filter(Boolean).join(", ");
}
