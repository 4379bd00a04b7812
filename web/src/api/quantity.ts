import type { Origin, Quantity } from "./client";

/** The number of a quantity, or null where there is none, or something typed that is none. */
export function valueOf(quantity: Quantity | null | undefined): number | null {
  const value = typeof quantity === "object" ? quantity?.value : quantity;
  return typeof value === "number" ? value : null;
}

/** Where a quantity comes from; a bare number was typed, a missing one is assumed. */
export function originOf(quantity: Quantity | null | undefined): Origin {
  if (quantity === null || quantity === undefined) return "assumed";
  return typeof quantity === "object" ? quantity.origin : "typed";
}

/** The same document with the value at a path such as `banks.0.charge` replaced; nothing else is copied. */
export function setAt<T>(document: T, path: string, value: unknown): T {
  const [step, ...rest] = path.split(".");
  if (step === undefined || step === "") return value as T;
  if (Array.isArray(document)) {
    return document.map((each: unknown, i) =>
      i === Number(step) ? setAt(each, rest.join("."), value) : each,
    ) as T;
  }
  const record = (document ?? {}) as Record<string, unknown>;
  return { ...record, [step]: setAt(record[step], rest.join("."), value) } as T;
}

/** The same document with several values replaced, by their paths. */
export function setAll<T>(document: T, values: Record<string, unknown>): T {
  return Object.entries(values).reduce((done, [path, value]) => setAt(done, path, value), document);
}

/** The value at a path, or undefined. */
export function getAt(document: unknown, path: string): unknown {
  return path
    .split(".")
    .reduce<unknown>((here, step) => (here as Record<string, unknown> | undefined)?.[step], document);
}
