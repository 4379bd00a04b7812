// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";

import type { WorkshopSettings, StockLine } from "../api/client";
import { Shelf } from "./Shelf";

afterEach(cleanup);

function show(shelf: StockLine[]) {
  let now = shelf;
  function Kept() {
    const [held, hold] = useState(shelf);
    const shop = { sizes: "awg", lengths: "m", currency: "EUR", shelf: held } as WorkshopSettings;
    return <Shelf shop={shop} onChange={(next) => hold((now = next))} />;
  }
  render(<Kept />);
  return () => now;
}

describe("the cable on the shelf", () => {
  it("says that every usual size is offered while nothing is listed, and starts a line in the shop's kind", async () => {
    const shelf = show([]);
    expect(screen.getByText(/every usual size is offered/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Add a cable" }));
    expect(shelf()).toEqual([{ size: "4 AWG", conductor: "copper", price_per_m: null }]);
    expect(screen.getByText(/Only these sizes are offered/)).toBeTruthy();
  });

  it("keeps prices by the metre, ohms as they are measured in thousandths, and nothing where a field is empty", async () => {
    const shelf = show([{ size: "4 AWG", conductor: "copper" }]);
    await userEvent.type(screen.getByLabelText("Price of cable 1"), "6.2");
    await userEvent.type(screen.getByLabelText("Measured milliohms of cable 1"), "0.85");
    expect(shelf()[0]).toMatchObject({ price_per_m: 6.2 });
    expect(shelf()[0]?.measured_ohm_per_m).toBeCloseTo(0.00085, 12);
    await userEvent.clear(screen.getByLabelText("Price of cable 1"));
    expect(shelf()[0]?.price_per_m).toBeNull();
  });

  it("takes one line off and leaves the others", async () => {
    const shelf = show(["8 AWG", "4 AWG", "2 AWG"].map((size) => ({ size, conductor: "copper" as const })));
    await userEvent.click(screen.getByRole("button", { name: "Take cable 2 off the shelf" }));
    await userEvent.selectOptions(screen.getByLabelText("Metal of cable 2"), "cca15");
    expect(shelf()).toEqual([
      { size: "8 AWG", conductor: "copper" },
      { size: "2 AWG", conductor: "cca15" },
    ]);
  });
});
