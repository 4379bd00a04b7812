/** Whether two values are alike, in whatever order their fields stand. */
export function same(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const of = a as Record<string, unknown>;
  const with_ = b as Record<string, unknown>;
  const keys = Object.keys(of);
  return (
    keys.length === Object.keys(with_).length &&
    keys.every((key) => key in with_ && same(of[key], with_[key]))
  );
}
