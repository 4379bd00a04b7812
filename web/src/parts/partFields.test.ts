import fc from "fast-check";
import { describe, expect, it } from "vitest";

import { publishedChoices, publishedUnits } from "../test/published";
import { draftOf, fieldsOf, partOf, type Part, type PartField, type PartKind } from "./partFields";
import { KINDS } from "./partWords";

const kinds = KINDS.map(([kind]) => kind);

const valueOf = ({ text, choices, per = 1 }: PartField) =>
  choices
    ? fc.constantFrom(...choices.map(([value]) => value))
    : text
      ? fc.stringMatching(/^[A-Za-z]{1,12}$/)
      : fc.integer({ min: 1, max: 20_000 }).map((n) => n / per);

const part = fc.constantFrom(...kinds).chain((kind) =>
  fc.tuple(...fieldsOf(kind).map(valueOf)).map((values) => {
    const own = Object.fromEntries(fieldsOf(kind).map(({ key }, i) => [key, values[i]]));
    return { ...own, kind, name: String(own.name), weight_kg: 6.1, needs: ["a shunt"] };
  }),
);

describe("a part typed in", () => {
  it("comes back as it was from its own text, with what no field shows", () => {
    fc.assert(
      fc.property(part, (made) => {
        const stored = made as Part;
        expect(partOf(draftOf(stored), stored)).toEqual(made);
      }),
    );
  });

  it("names each field's unit as the published part has it, thousandths where it says so", () => {
    const published = publishedUnits("Part");
    for (const [kind] of KINDS)
      for (const { key, unit = "", per = 1 } of fieldsOf(kind))
        expect((per === 1000 ? "m" : "") + (published.get(key) ?? ""), `${kind}.${key}`).toBe(unit);
  });

  it("may be all that the published part may, each choice in words", () => {
    for (const [kind] of KINDS)
      for (const { key, choices } of fieldsOf(kind).filter((field) => field.choices)) {
        const known = publishedChoices("Part", key).filter((choice) => choice !== "none");
        expect(choices?.map(([value]) => value).sort(), `${kind}.${key}`).toEqual(known.sort());
        expect(
          choices?.every(([, words]) => words.length > 2),
          `${kind}.${key}`,
        ).toBe(true);
      }
  });

  it("has nothing where nothing was typed, and keeps what is no number as it stands", () => {
    const made = partOf({ kind: "charger", name: " Heron ", rated_a: "many", price: "" });
    expect(made).toEqual({
      kind: "charger",
      name: "Heron",
      price: null,
      rated_a: "many",
      idle_a: null,
      setpoint_v: null,
    });
    expect(draftOf(undefined)).toEqual({ kind: "charger" });
    expect(
      partOf({ kind: "fuse", amps: "60" }, { kind: "cable", needs: ["x"] } as Part).needs,
    ).toBeUndefined();
  });

  it("is asked for what its kind cannot be without", () => {
    const needed = Object.fromEntries(
      kinds.map((kind) => [kind, fieldsOf(kind).flatMap((field) => (field.needed ? [field.key] : []))]),
    );
    expect(needed).toEqual({
      charger: ["name", "rated_a"],
      bank: ["name", "capacity_ah"],
      capacitor: ["name", "farad"],
      cable: ["name", "size"],
      fuse: ["name", "amps"],
      return: ["name", "size"],
      strap: ["name", "size"],
      isolator: ["name"],
      driver: ["name", "driver"],
      box: ["name", "box_kind"],
      amplifier: ["name", "amplifier"],
      labour: ["name"],
    });
    const price = (kind: PartKind) => fieldsOf(kind).find(({ key }) => key === "price")?.words;
    expect([price("cable"), price("labour"), price("fuse")]).toEqual([
      "Price of a metre",
      "Price of an hour",
      "Price",
    ]);
  });
});
