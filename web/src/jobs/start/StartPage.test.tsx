// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Job } from "../../api/client";
import { browser } from "../../test/keyval";
import { openPage } from "../../test/page";
import { asked, Refusal, serve } from "../../test/server";

vi.mock("idb-keyval", () => import("../../test/keyval"));
vi.mock("./VehicleQuestion", () => ({ VehicleQuestion: () => null }));
vi.mock("./SupplyQuestion", () => ({ SupplyQuestion: () => null }));
vi.mock("./LoadQuestion", () => ({ LoadQuestion: () => null }));
const { StartPage } = await import("./StartPage");

const document = { title: "Van", amplifiers: [], basis: { engine: "idle" } } as unknown as Job;

beforeEach(() => browser.clear());
afterEach(cleanup);

describe("a new job", () => {
  it("leaves nothing of its form to the next one, nor an amplifier that never came from the bench", async () => {
    serve({
      "GET /api/v1/job-starts": () => [{ name: "estate", words: "an estate car", document }],
      "POST /api/v1/forecasts": () => new Promise(() => undefined),
      "GET /api/v1/amplifiers": () => ({ count: 1, items: [{ id: 4, name: "Marram", sheets: 1 }] }),
      "GET /api/v1/amplifiers/4/job-amplifier": () => new Refusal("busy", "", 503),
      "POST /api/v1/jobs": () => ({ id: 7 }),
    });
    openPage(<StartPage />);
    await screen.findByRole("option", { name: "Marram" });
    fireEvent.change(screen.getByRole("combobox", { name: "From the bench" }), { target: { value: "4" } });
    fireEvent.change(screen.getByRole("textbox", { name: "Name" }), { target: { value: "Whelk" } });
    await screen.findByRole("button", { name: "Try again" });
    await waitFor(() => expect(browser.size).toBe(2));
    fireEvent.click(screen.getByRole("button", { name: "Open the job" }));
    await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/jobs/7/load"));
    expect(browser.size).toBe(0);
    expect(asked.find(([route]) => route === "POST /api/v1/jobs")?.[1]).toEqual({ document });
  });
});
