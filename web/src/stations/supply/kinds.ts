/** What charges, in words. */
export const CHARGERS = [
  ["alternator", "alternator"],
  ["dc_dc", "DC-DC converter"],
  ["bench_supply", "bench supply"],
  ["mains_charger", "mains charger"],
] as const;

/** What the engine does, in words. */
export const ENGINE_WORDS = { off: "Engine off", idle: "Idle", cruise: "Cruise" } as const;

/** Chemistries of batteries, in words. */
export const CHEMISTRIES = [
  ["flooded", "lead-acid, flooded"],
  ["agm", "lead-acid, AGM"],
  ["lifepo4", "lithium iron phosphate"],
  ["lto", "lithium titanate"],
] as const;
