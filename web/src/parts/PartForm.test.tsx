// @vitest-environment jsdom
import { asked, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { browser } from "../test/keyval";
import { openPage } from "../test/page";
import { publishedUnits } from "../test/publishedUnits";
import { draftOf, fieldsOf, partOf, type Part } from "./partFields";
import { KINDS } from "./partWords";

vi.mock("idb-keyval", () => import("../test/keyval"));
const { PartForm } = await import("./PartForm");

beforeEach(() => browser.clear());
afterEach(cleanup);

describe("a part that is typed in", () => {
  it("is sent with what its kind has, milliohms as ohms, and the form is done", async () => {
    const done = vi.fn();
    serve({ "POST /api/v1/parts": (body) => ({ id: 3, version: 1, ...(body as object) }) });
    openPage(<PartForm onDone={done} />);
    await userEvent.selectOptions(screen.getByLabelText("Kind"), "battery");
    await userEvent.type(screen.getByLabelText(/^Name/), "Second AGM");
    await userEvent.type(screen.getByLabelText(/^Price/), "189,50");
    await userEvent.type(screen.getByLabelText(/^Capacity/), "70");
    await userEvent.type(screen.getByLabelText(/^Internal resistance/), "4.5");
    await userEvent.click(screen.getByRole("button", { name: "Save the part" }));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(asked.at(-1)).toMatchObject([
      "POST /api/v1/parts",
      { part: { kind: "bank", name: "Second AGM", price: 189.5, capacity_ah: 70, resistance_ohm: 0.0045 } },
    ]);
    expect(browser.has("part:new")).toBe(false);
  });

  it("keeps what the form does not ask for when it is changed", () => {
    const part = {
      kind: "charger",
      name: "Heron",
      price: 240,
      hours: 3,
      rated_a: 140,
      weight_kg: 6.1,
      needs: ["x"],
    };
    const draft = { ...draftOf(part as unknown as Part), price: "250" };
    expect(partOf(draft, part as unknown as Part)).toEqual({
      ...part,
      price: 250,
      idle_a: null,
      setpoint_v: null,
    });
  });

  it("names each field's unit as the published part has it, thousandths where it says so", () => {
    const published = publishedUnits("Part");
    for (const [kind] of KINDS)
      for (const { key, unit = "", per = 1 } of fieldsOf(kind))
        expect((per === 1000 ? "m" : "") + (published.get(key) ?? ""), `${kind}.${key}`).toBe(unit);
  });

  it("asks of every kind for a name, a price and what it needs", () => {
    for (const [kind] of KINDS)
      expect(
        fieldsOf(kind)
          .slice(0, 2)
          .map(({ key }) => key),
      ).toEqual(["name", "price"]);
    expect(fieldsOf("cable").find(({ key }) => key === "price")?.words).toBe("Price of a metre");
  });
});
