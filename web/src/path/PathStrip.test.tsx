// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Forecast } from "../api/client";
import { forecast } from "../test/pathExample";
import { PathStrip } from "./PathStrip";

vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    disconnect() {}
  },
);
afterEach(cleanup);

describe("the path strip on the screen", () => {
  it("is told in a sentence to those who do not see it, without sources that give nothing", () => {
    render(<PathStrip forecast={forecast} onCable={() => undefined} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
      "Path of current. Alternator gives 600 watts; Battery gives 100 watts; the car takes 200 watts; " +
        "Marram at 12.80 volts puts 370 watts into the coils.",
    );
  });

  it("leads from a cable's mark and band to that cable", () => {
    const pointed: string[] = [];
    const { container } = render(<PathStrip forecast={forecast} onCable={(name) => pointed.push(name)} />);
    fireEvent.click(screen.getByText("Main run"));
    for (const band of container.querySelectorAll("path")) fireEvent.click(band);
    expect(pointed.length).toBeGreaterThan(1);
    expect(new Set(pointed)).toEqual(new Set(["Main run"]));
  });

  it("says what is wrong where no operating point is found, and what is missing where nothing flows", () => {
    render(
      <PathStrip
        forecast={{ ...forecast, explanation: "No operating point, at idle." }}
        onCable={() => undefined}
      />,
    );
    expect(screen.getByRole("alert").textContent).toContain("No operating point, at idle.");
    cleanup();
    const nothing = {
      ...forecast,
      amplifiers: [],
      path: { nodes: [], sources: [], edges: [], vehicle_a: 0, vehicle_w: 0 },
    };
    render(<PathStrip forecast={nothing as unknown as Forecast} onCable={() => undefined} />);
    expect(screen.getByText(/add a battery or a charger, and an amplifier/)).toBeTruthy();
  });
});
