// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Forecast } from "../api/client";
import { forecast } from "../test/pathExample";
import { inSentences } from "./inSentences";
import { PathStrip } from "./PathStrip";

vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    disconnect() {}
  },
);
afterEach(cleanup);

const show = async (of: Forecast | null) => {
  const made = render(<PathStrip job={7} forecast={of} amplifiers={1} />, { wrapper: MemoryRouter });
  await act(async () => {}); // its letters are known
  return made;
};

describe("the path strip on the screen", () => {
  it("is told in sentences to those who do not see it, with what is lost, without sources that give nothing", async () => {
    await show(forecast);
    expect(inSentences(forecast)).toBe(
      "Given: Alternator 45 A, all it has; Battery 8.0 A. On the way: Front at 13.30 V; Marram at 12.80 V. " +
        "Ends: The car itself 15 A, from Front; Main run 38 A, −0.50 V, 20 W lost, from Front; " +
        "In the coils 370 W, from Marram; Heat 105 W, from Marram.",
    );
    const drawn = screen.getByRole("group", { name: "Path of current" });
    expect(document.getElementById(drawn.getAttribute("aria-describedby") ?? "")?.textContent).toBe(
      inSentences(forecast),
    );
  });

  it("leads from what is drawn to its station and field", async () => {
    await show(forecast);
    const to = (name: RegExp) => screen.getByRole("link", { name }).getAttribute("href");
    expect(to(/^Alternator/)).toBe("/jobs/7/supply?at=chargers.0");
    expect(to(/^Main run/)).toBe("/jobs/7/cable?cable=Main%20run");
    expect(to(/^In the coils/)).toBe("/jobs/7/load?at=amplifiers.0.load");
  });

  it("leads the keyboard to a run whose loss is too little to be told, by its band", async () => {
    const edges = forecast.path.edges.map((edge) => ({ ...edge, heat_w: 0.9 }));
    await show({ ...forecast, path: { ...forecast.path, edges } });
    const run = screen.getByRole("link", { name: "Front to Marram: 480 W" });
    expect(run.getAttribute("href")).toBe("/jobs/7/cable?cable=Main%20run");
    expect(run.tabIndex).toBe(0);
    expect(screen.queryByRole("link", { name: /^Main run/ })).toBeNull();
  });

  it("is as high before its forecast as after", async () => {
    const { container, unmount } = await show(null);
    const before = container.querySelector<HTMLElement>("[data-path-strip] > div")?.style.height;
    unmount();
    await show(forecast);
    expect(`${screen.getByRole("group").getAttribute("height")}px`).toBe(before);
  });

  it("says what is wrong where no operating point is found, and what is missing where nothing flows", async () => {
    await show({ ...forecast, explanation: "No operating point, at idle." });
    expect(screen.getByRole("alert").textContent).toContain("No operating point, at idle.");
    cleanup();
    const path = { nodes: [], sources: [], edges: [], vehicle_a: 0, vehicle_w: 0 };
    await show({ ...forecast, amplifiers: [], path } as unknown as Forecast);
    expect(screen.getByText(/add a battery or a charger, and an amplifier/)).toBeTruthy();
  });

  it("waits for its letters, so that words are placed once", async () => {
    const came: (() => void)[] = [];
    const pen = { font: "", measureText: (text: string) => ({ width: 7 * text.length }) };
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(pen as never);
    const load = () => new Promise<void>((resolve) => came.push(resolve));
    Object.defineProperty(document, "fonts", { value: { load }, configurable: true });
    await show(forecast);
    expect(screen.queryByRole("group")).toBeNull();
    await act(async () => came.forEach((each) => each()));
    expect(screen.getByRole("group", { name: "Path of current" })).toBeTruthy();
  });

  it("does not wait for them on a slow line", async () => {
    vi.useFakeTimers();
    // Known letters are kept by the module: another of it knows none.
    vi.resetModules();
    const { PathStrip: Anew } = await import("./PathStrip");
    const load = () => new Promise<void>(() => undefined);
    Object.defineProperty(document, "fonts", { value: { load }, configurable: true });
    render(<Anew job={7} forecast={forecast} amplifiers={1} />, { wrapper: MemoryRouter });
    await act(async () => vi.advanceTimersByTime(900));
    expect(screen.queryByRole("group")).toBeNull();
    await act(async () => vi.advanceTimersByTime(200));
    expect(screen.getByRole("group", { name: "Path of current" })).toBeTruthy();
    vi.useRealTimers();
  });
});
