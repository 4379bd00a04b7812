// @vitest-environment jsdom
import { asked, serve } from "../../test/server";
import { QueryClient } from "@tanstack/react-query";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { useWork } from "../../job/WorkContext";
import { openJob } from "../../test/work";

vi.mock("./SimulationChart", () => ({ SimulationChart: () => null }));
const saved = vi.hoisted(() => vi.fn());
vi.mock("../../ui/saveFile", () => ({ saveFile: saved }));
const { SimulationPanel } = await import("./SimulationPanel");

const volts = { min: 12.1, low1: 12.3, mean: 13.0 };
const FOUND = { series: {}, front_v: volts, terminal_v: volts, sources: [], delivered_w: 400, dips: 0 };
const FIGURES = ["lost_to_sag_db", "silent_v", "deepest_dip_v", "time_to_12v_s", "time_to_half_s"];
const REST = ["recharge_idle_s", "recharge_cruise_s", "switched_off"];
const JOB = { title: "Estate", vehicle: { system_v: 24 }, basis: { programme: "tone", engine: "idle" } };

function Panel() {
  const { change } = useWork();
  return (
    <>
      <SimulationPanel />
      <button onClick={() => change("title", "Changed")}>change it</button>
      <button onClick={() => change("title", "Estate")}>change it back</button>
    </>
  );
}

beforeEach(() =>
  serve({
    "POST /api/v1/simulations": () => ({
      ...FOUND,
      ...Object.fromEntries([...FIGURES, ...REST].map((key) => [key, 0])),
    }),
    "POST /api/v1/simulations/csv": () => "time_s,front_v",
  }),
);
afterEach(cleanup);

const press = (name: string) => userEvent.click(screen.getByRole("button", { name }));
const isOld = () => screen.queryByText(/as it was when it ran/) !== null;

describe("a simulation that was run", () => {
  it("says when the job is another one by now, and its file is of the job that it was of", async () => {
    openJob(JOB, <Panel />);
    await press("Run the simulation");
    await screen.findByRole("table", { name: "What came of the simulation" });
    expect(isOld()).toBe(false);
    expect(screen.getByText(/to 24\.0 V at a battery/)).toBeTruthy();
    await press("change it");
    expect(isOld()).toBe(true);
    await press("Save as CSV");
    await waitFor(() => expect(saved).toHaveBeenCalledWith("simulation.csv", "time_s,front_v", "text/csv"));
    expect(asked.at(-1)?.[1]).toMatchObject({ document: { title: "Estate" }, seconds: 300 });
    await press("change it back");
    expect(isOld()).toBe(false);
  });

  it("is there again when the station is come back to", async () => {
    const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
    openJob(JOB, <Panel />, { client });
    await press("Run the simulation");
    await screen.findByRole("table", { name: "What came of the simulation" });
    cleanup();
    openJob({ ...JOB, title: "Later" }, <Panel />, { client });
    expect(screen.getByRole("table", { name: "What came of the simulation" })).toBeTruthy();
    expect(isOld()).toBe(true);
  });
});
