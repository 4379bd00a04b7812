// @vitest-environment jsdom
import { asked, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { browser } from "../test/keyval";
import { openPage } from "../test/page";

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
});
