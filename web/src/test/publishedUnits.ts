import text from "../../../docs/openapi.json?raw";

interface Shape {
  "x-unit"?: string;
  anyOf?: Shape[];
  items?: Shape;
}

const published = JSON.parse(text) as {
  components: { schemas: Record<string, { properties: Record<string, Shape> }> };
};

const AS_SHOWN: Record<string, string> = { ohm: "Ω" };

/** The unit of each field of a published shape, as it is shown; "" where it has none. */
export function publishedUnits(name: string): Map<string, string> {
  const { properties } = published.components.schemas[name] ?? { properties: {} };
  return new Map(Object.entries(properties).map(([key, shape]) => [key, unitOf(shape)]));
}

function unitOf(shape: Shape): string {
  const inside = [shape, ...(shape.anyOf ?? []), ...(shape.anyOf ?? []).flatMap((each) => each.items ?? [])];
  const unit = [...inside, shape.items ?? {}].map((each) => each["x-unit"]).find((each) => each) ?? "";
  return AS_SHOWN[unit] ?? unit;
}
