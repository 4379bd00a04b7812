import text from "../../../docs/openapi.json?raw";

interface Shape {
  "x-unit"?: string;
  anyOf?: Shape[];
  items?: Shape;
  enum?: string[];
  default?: unknown;
}

const published = JSON.parse(text) as {
  components: { schemas: Record<string, { properties: Record<string, Shape> }> };
};

const AS_SHOWN: Record<string, string> = { ohm: "Ω" };

/** The fields of a published shape. */
export function publishedFields(name: string): Map<string, Shape> {
  return new Map(Object.entries(published.components.schemas[name]?.properties ?? {}));
}

/** The unit of each of its fields, as it is shown; "" where it has none. */
export function publishedUnits(name: string): Map<string, string> {
  return new Map([...publishedFields(name)].map(([key, shape]) => [key, unitOf(shape)]));
}

/** What one of its fields may be, where it is one of some words. */
export function publishedChoices(name: string, field: string): string[] {
  const shape = publishedFields(name).get(field) ?? {};
  const found = [shape, ...(shape.anyOf ?? []), shape.items ?? {}].find((each) => each.enum);
  return found?.enum ?? [];
}

function unitOf(shape: Shape): string {
  const inside = [shape, ...(shape.anyOf ?? []), ...(shape.anyOf ?? []).flatMap((each) => each.items ?? [])];
  const unit = [...inside, shape.items ?? {}].map((each) => each["x-unit"]).find((each) => each) ?? "";
  return AS_SHOWN[unit] ?? unit;
}
