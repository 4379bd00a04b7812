// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";

import type { EngineResult } from "../../api/client";
import { Carriers, sharesOf } from "./Carriers";
import { along, EngineOffTime } from "./EngineOffTime";

afterEach(cleanup);
const engine = (charger_a: number, bank_a: number, vehicle_a: number, draw_a: number) =>
  ({ engine: "idle", charger_a, bank_a, vehicle_a, draw_a }) as EngineResult;

describe("who carries the amps", () => {
  it("is given and taken in bars of one length, whether a battery gives or takes", () => {
    for (const state of [engine(62, 23, 41, 44), engine(40, -6, 20, 14), engine(0, 30, 0.1, 29.9)]) {
      const { given, taken } = sharesOf(state);
      const sum = (shares: { amps: number }[]) => shares.reduce((total, each) => total + each.amps, 0);
      expect(sum(given)).toBeCloseTo(sum(taken), 6);
      expect([...given, ...taken].every((each) => each.amps > 0)).toBe(true);
    }
    const { container } = render(<Carriers engines={[engine(62, 23, 41, 44)]} />);
    expect(container.textContent).toContain("batteries 23 A");
    const widths = [...container.querySelectorAll<HTMLElement>("[title]")].map((each) =>
      parseFloat(each.style.width),
    );
    expect(widths.map((each) => Math.round(each))).toEqual([73, 27, 48, 52]);
  });
});

describe("the minutes with the engine off", () => {
  it("grow along one scale from half a minute to three days", () => {
    expect([along(0), along(0.5), along(3 * 24 * 60), along(1e9)]).toEqual([0, 0, 1, 1]);
    expect(along(10) - along(1)).toBeCloseTo(along(100) - along(10), 9);
    render(
      <EngineOffTime
        rows={[
          { programme: "tone", minutes: 36.2, longer: false },
          { programme: "burst", minutes: 4320, longer: true },
          { programme: "bass_heavy", minutes: null, longer: false },
        ]}
      />,
    );
    expect(screen.getAllByRole("row").map((row) => row.lastElementChild?.textContent)).toEqual([
      "36 min",
      "more than three days",
      "does not hold",
    ]);
  });
});
