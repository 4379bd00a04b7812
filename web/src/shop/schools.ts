/** The schools that a workshop chooses from (see the guide), in words. */
export const CRITERIA = [
  ["thd1", "1 % THD"],
  ["clip", "onset of clipping"],
  ["burst", "burst"],
] as const;
export const PROGRAMMES = [
  ["tone", "full tone"],
  ["burst", "burst"],
  ["everyday", "everyday music"],
  ["bass_heavy", "bass-heavy music"],
  ["held_bass", "held bass"],
] as const;
export const FUSES = [
  ["cable", "the cable"],
  ["amplifier", "the cable, as the amplifier's own"],
] as const;
export const LOADS = [
  ["box", "into the box"],
  ["resistor", "into a resistor"],
  ["mean", "mean of both"],
] as const;
