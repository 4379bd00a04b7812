import type { CableResult } from "../../api/client";

type LeadPlace = `amplifiers.${number}.lead`;
/** Where a cable stands in the job file: on its own, or as an amplifier's lead. */
export type CablePlace = `cables.${number}` | LeadPlace;

/** The place of a cable as the forecast names it. */
export function placeOf(cable: CableResult): CablePlace {
  return cable.field as CablePlace;
}

/** The amplifier that a lead goes to. */
export function amplifierOf(lead: CableResult): `amplifiers.${number}` {
  return lead.field.replace(/\.lead$/, "") as `amplifiers.${number}`;
}
