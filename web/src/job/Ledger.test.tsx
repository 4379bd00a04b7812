// @vitest-environment jsdom
import { asked, serve } from "../test/server";
import { cleanup, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Forecast } from "../api/client";
import { openJob } from "../test/work";
import { Ledger } from "./Ledger";

afterEach(cleanup);
beforeEach(() => serve({ "POST /api/v1/sensitivities": () => ({ assumptions: NEXT }) }));

const NEXT = [
  {
    field: "banks.0.resistance_ohm",
    name: "Resistance",
    part: "Front battery",
    volts: 0.21,
    watts: 64,
    where: "under the hood",
  },
];
const figure = (value: number, unit: string) => ({
  ...{ value, unit, printed: String(value), low: null, high: null },
  ...{ words: "", inputs: [] },
});
const flag = (more: object) => ({ code: "x", field: "", severity: "caution", why: "", remedy: "", ...more });

function forecast(amplifier: object, more: object = {}): Partial<Forecast> {
  return {
    figures: {
      delivered_w: figure(866, "W"),
      terminal_v: figure(12.9, "V"),
      draw_a: figure(70, "A"),
      short_a: figure(-12, "A"),
    },
    draw_a: { low: 63, high: 95, clamp: 82, peak: 160 },
    amplifiers: [
      {
        bench_w: 1190,
        nominal_ohm: 1,
        delivered_w: 866,
        low_w: 823,
        high_w: 909,
        terminal_v: 12.9,
        terminal_low_v: 12.9,
        ...amplifier,
      },
    ],
    cables: [],
    flags: [],
    ...more,
  } as unknown as Partial<Forecast>;
}
const open = (made: Partial<Forecast>, settled = false) =>
  openJob({ title: "Estate car" }, <Ledger settled={settled} />, { forecast: made });

describe("the ledger", () => {
  it("tells the mean from the loudest moment, and how far the watts may be off", () => {
    open(forecast({ terminal_low_v: 11.62 }));
    const ledger = screen.getByRole("complementary", { name: "Ledger" });
    expect(ledger.textContent).toContain("of 1190 W on the bench at 1 Ω; 820 to 910 W");
    expect(ledger.textContent).toContain("mean; 11.62 V at the loudest moment");
    expect(ledger.textContent).toContain("63 to 95 A; clamp 82 A at most, peak 160 A");
    cleanup();
    open(forecast({ terminal_low_v: 12.9 }));
    expect(screen.getByText("held, as long as the battery lasts")).toBeTruthy();
  });

  it("colours the volts as the forecast judges them, not by a line of its own", () => {
    const tone = (severity: string | null) => {
      cleanup();
      open(forecast({ terminal_severity: severity }));
      return screen.getByRole("button", { name: /12\.90? V/ }).className;
    };
    expect(tone("act")).toContain("vermilion");
    expect(tone("caution")).toContain("ochre");
    expect(tone(null)).toContain("teal");
  });

  it("leads from a flag to its station, and to its own cable", async () => {
    const cables = [
      { name: "Main run", field: "cables.0" },
      { name: "Lead & more", field: "amplifiers.0.lead" },
    ];
    const flags = [
      flag({
        text: "The lead is hot.",
        field: "amplifiers.0.lead.size",
        station: "cable",
        why: "It carries 90 A.",
      }),
      flag({ text: "Lights dim.", field: "banks.0", station: "supply" }),
      flag({ text: "Fuse far.", field: "cables.01.x", station: "cable" }),
    ];
    open(forecast({}, { flags, cables }));
    const list = within(screen.getByRole("list", { name: "Flags" }));
    const [lead, lights, other] = list.getAllByRole("listitem") as HTMLElement[];
    const to = (item: HTMLElement | undefined) =>
      within(item as HTMLElement)
        .getByRole("link", { name: "Go there", hidden: true })
        .getAttribute("href");
    expect(to(lead)).toBe("/jobs/1/cable?cable=Lead+%26+more&at=amplifiers.0.lead.size");
    expect(to(lights)).toBe("/jobs/1/supply?at=banks.0");
    expect(to(other)).toBe("/jobs/1/cable?at=cables.01.x");
    await userEvent.click(screen.getByText("The lead is hot."));
    expect(lead?.textContent).toContain("It carries 90 A.");
    cleanup();
    open(forecast({}));
    expect(screen.getByText("✓ Nothing to flag.")).toBeTruthy();
    cleanup();
    open(forecast({}, { amplifiers: [] }));
    expect(screen.queryByText("✓ Nothing to flag.")).toBeNull();
    expect(screen.getByText(/Nothing was checked yet/)).toBeTruthy();
  });

  it("asks what to measure next only once the job has settled", async () => {
    open(forecast({}));
    await new Promise((done) => setTimeout(done, 50));
    expect(asked).toEqual([]);
    cleanup();
    open(forecast({}), true);
    expect((await screen.findByText(/Front battery/)).textContent).toBe(
      "Resistance, Front battery: it may move the answer by 0.21 V and 64 W; read it under the hood.",
    );
    expect(asked.map(([route]) => route)).toEqual(["POST /api/v1/sensitivities"]);
  });
});
