import fc from "fast-check";
import { describe, expect, it } from "vitest";

import { draftOf, fieldsOf, partOf, type Part, type PartField, type PartKind } from "./partFields";
import { KINDS } from "./partWords";

const kinds = KINDS.map(([kind]) => kind as PartKind);

const valueOf = ({ text, choices, per = 1 }: PartField) =>
  choices
    ? fc.constantFrom(...choices.map(([value]) => value))
    : text
      ? fc.stringMatching(/^[A-Za-z]{1,12}$/)
      : fc.integer({ min: 1, max: 20_000 }).map((n) => n / per);

const part = fc.constantFrom(...kinds).chain((kind) =>
  fc.tuple(...fieldsOf(kind).map(valueOf)).map((values): Part => {
    const own = fieldsOf(kind).map(({ key }, i) => [key, values[i]] as const);
    return { ...Object.fromEntries(own), kind, needs: ["a shunt"] } as unknown as Part;
  }),
);

describe("a part typed in", () => {
  it("comes back as it was from its own text, with what no field shows", () => {
    fc.assert(
      fc.property(part, (made) => {
        expect(partOf(draftOf(made), made)).toEqual(made);
      }),
    );
  });

  it("shows milliohms of a part's ohms", () => {
    const bank = { kind: "bank", name: "AGM", resistance_ohm: 0.0052, chemistry: "agm" } as Part;
    expect(draftOf(bank).resistance_ohm).toBe("5.2");
    expect(partOf({ kind: "bank", resistance_ohm: "4,5" }).resistance_ohm).toBeCloseTo(0.0045, 12);
    expect(fieldsOf("bank").find(({ key }) => key === "resistance_ohm")?.unit).toBe("mΩ");
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
