// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Job } from "../../api/client";
import { WorkContext, type Open } from "../../job/WorkContext";
import { browser } from "../../test/keyval";
import { openPage } from "../../test/page";
import { Refusal, serve } from "../../test/server";

vi.mock("idb-keyval", () => import("../../test/keyval"));
const { AmplifierQuestion } = await import("./AmplifierQuestion");

const KEPT = "job:new from the bench";
const CHOICES = { count: 1, items: [{ id: 4, name: "Marram", sheets: 1 }] };

function Asked() {
  const [job, setJob] = useState({ amplifiers: [] } as unknown as Job);
  const change = (path: string, value: unknown) => setJob((before) => ({ ...before, [path]: value }));
  return (
    <WorkContext value={{ job, change } as unknown as Open}>
      <AmplifierQuestion />
    </WorkContext>
  );
}

beforeEach(() => browser.clear());
afterEach(cleanup);

describe("the amplifier of a new job", () => {
  it("is kept as it was chosen until the bench has answered, also over a reload on a slow line", async () => {
    let answer: (amplifier: unknown) => void = () => undefined;
    serve({
      "GET /api/v1/amplifiers": () => CHOICES,
      "GET /api/v1/amplifiers/4/job-amplifier": () => new Promise((came) => (answer = came)),
    });
    openPage(<Asked />);
    await screen.findByRole("option", { name: "Marram" });
    fireEvent.change(screen.getByRole("combobox", { name: "From the bench" }), { target: { value: "4" } });
    await waitFor(() => expect(browser.has(KEPT)).toBe(true));
    cleanup(); // the page is left, and opened again
    openPage(<Asked />);
    const box = await screen.findByRole<HTMLSelectElement>("combobox", { name: "From the bench" });
    await waitFor(() => expect(box.disabled).toBe(true));
    answer({ name: "Marram 1200 mono", came_from: "bench, sheet of 2026-03-03" });
    await screen.findByText("Marram 1200 mono");
    await waitFor(() => expect(browser.has(KEPT)).toBe(false));
  });

  it("stays chosen where no answer came, to be tried again, and is let go where the bench refuses", async () => {
    const answers: unknown[] = [new Refusal("busy", "", 503), new Refusal("removed", "", 404)];
    serve({
      "GET /api/v1/amplifiers": () => CHOICES,
      "GET /api/v1/amplifiers/4/job-amplifier": () => answers.shift(),
    });
    openPage(<Asked />);
    await screen.findByRole("option", { name: "Marram" });
    fireEvent.change(screen.getByRole("combobox", { name: "From the bench" }), { target: { value: "4" } });
    const again = await screen.findByRole("button", { name: "Try again" });
    expect(browser.has(KEPT)).toBe(true);
    fireEvent.click(again);
    await screen.findByText(/removed/);
    await waitFor(() => expect(browser.has(KEPT)).toBe(false));
  });
});
