// @vitest-environment jsdom
import { asked, Refusal, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { DriverOut } from "../api/client";
import { browser } from "../test/keyval";
import { openPage } from "../test/page";

vi.mock("idb-keyval", () => import("../test/keyval"));
const { DriverForm } = await import("./DriverForm");

beforeEach(() => browser.clear());
afterEach(cleanup);

const driver = (name: string, fs_hz = 30) => ({
  name,
  fs_hz,
  re_ohm: 3.2,
  qms: 5,
  qes: 0.5,
  vas_l: 60,
  sd_cm2: 480,
});
const stored = (version: number, of = driver("Dunlin 8")) =>
  ({ id: 4, version, driver: of, qts: 0.45, findings: [] }) as unknown as DriverOut;

describe("a driver that is typed in", () => {
  it("is there again after the form was closed", async () => {
    const page = openPage(<DriverForm onDone={() => undefined} />);
    await userEvent.type(screen.getByLabelText(/^Name/), "Half a drive");
    page.unmount();
    openPage(<DriverForm onDone={() => undefined} />);
    await waitFor(() => expect(screen.getByLabelText(/^Name/)).toHaveProperty("value", "Half a drive"));
    await userEvent.click(screen.getByRole("button", { name: "Throw it away" }));
    expect(screen.getByLabelText(/^Name/)).toHaveProperty("value", "");
  });

  it("that somebody else saved meanwhile is put beside theirs and saved over it only then", async () => {
    let version = 6;
    serve({
      "PUT /api/v1/parts/drivers/4": (body: { version: number }) =>
        body.version === version ? stored(version + 1) : new Refusal("changed elsewhere", "", 409),
      "GET /api/v1/parts/drivers": () => ({
        count: 1,
        items: [{ id: 4, name: "Dunlin 8", opened: stored(version, driver("Dunlin 8", 34)) }],
      }),
      "POST /api/v1/differences": () => ({
        differences: [{ path: "fs_hz", words: "Resonance fs", before: "31", after: "34" }],
      }),
    });
    openPage(<DriverForm stored={stored(5)} onDone={() => (version = 0)} />);
    const fs = screen.getByLabelText(/Hz/);
    await userEvent.clear(fs);
    await userEvent.type(fs, "31");
    await userEvent.click(screen.getByRole("button", { name: "Save the driver" }));
    await userEvent.click(await screen.findByRole("button", { name: "See both" }));
    await userEvent.click(await screen.findByRole("radio", { name: "theirs: 34" }));
    await userEvent.click(screen.getByRole("button", { name: "Save what is chosen" }));
    await waitFor(() => expect(fs).toHaveProperty("value", "34"));
    await userEvent.click(screen.getByRole("button", { name: "Save the driver" }));
    await waitFor(() => expect(version).toBe(0));
    const saves = asked.filter(([route]) => route.startsWith("PUT")).map(([, body]) => body);
    expect(saves.map((each) => (each as { version: number }).version)).toEqual([5, 6]);
    expect(saves.at(-1)).toMatchObject({ driver: { fs_hz: 34, name: "Dunlin 8" } });
  });
});
