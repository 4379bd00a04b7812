// @vitest-environment jsdom
import { asked, Refusal, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import type { Job } from "../api/client";
import { originOf } from "../api/quantity";
import { LogInPage } from "../session/LogInPage";
import { openPage } from "../test/page";
import { JobsPage } from "./JobsPage";

afterEach(cleanup);

const address = () => screen.getByRole("status", { name: "address" }).textContent;

const NONE = { count: 0, items: [] };

describe("the jobs", () => {
  it("begin with a car in which every value is marked as assumed", async () => {
    serve({ "GET /api/v1/jobs": () => NONE, "POST /api/v1/jobs": () => ({ id: 12 }) });
    openPage(<JobsPage />);
    await screen.findByText(/No job yet/);
    await userEvent.click(screen.getByRole("button", { name: "New job" }));
    await waitFor(() => expect(address()).toBe("/jobs/12/load"));
    const { document: job } = asked.find(([route]) => route === "POST /api/v1/jobs")?.[1] as {
      document: Job;
    };
    const values = [...(job.vehicle.loads ?? []), ...job.chargers, ...job.banks].flatMap((part) =>
      Object.values(part).filter((value) => typeof value !== "string"),
    );
    expect(values.length).toBeGreaterThan(6);
    expect(new Set(values.map((value) => originOf(value as never)))).toEqual(new Set(["assumed"]));
  });

  it("say why a file cannot be read, and stay where they are", async () => {
    const words = "old.json: line 1: version: 2 cannot be read";
    serve({ "GET /api/v1/jobs": () => NONE, "POST /api/v1/jobs/import": () => new Refusal(words) });
    openPage(<JobsPage />);
    const file = new File(["{}"], "old.json", { type: "application/json" });
    await userEvent.upload(screen.getByLabelText("Import a job file", { selector: "input" }), file);
    expect((await screen.findByRole("alert")).textContent).toContain(words);
    expect(address()).toBe("/");
  });

  it("come a page at a time, and more of them when they are asked for", async () => {
    const line = (id: number) => ({
      id,
      title: `Job ${id}`,
      version: 1,
      updated_at: "",
      summary: null,
      problem: "",
    });
    serve({
      "GET /api/v1/jobs": (_, request) => {
        const offset = Number(new URL(request.url).searchParams.get("offset"));
        return { count: 3, items: offset === 0 ? [line(1), line(2)] : [line(3)] };
      },
    });
    openPage(<JobsPage />);
    await screen.findByText("2 of 3");
    await userEvent.click(screen.getByRole("button", { name: "Show more" }));
    await screen.findByRole("link", { name: "Job 3" });
    expect(screen.getByRole("link", { name: "Job 1" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Show more" })).toBeNull();
  });

  it("are listed with what is in them", async () => {
    const line = {
      id: 3,
      title: "Estate car",
      problem: "",
      version: 7,
      updated_at: "2026-11-25T07:50:00Z",
    };
    serve({
      "GET /api/v1/jobs": () => ({
        count: 3,
        items: [
          { ...line, summary: { amplifiers: ["Marram", "Tern"], drive: "combustion" } },
          { ...line, id: 4, summary: { amplifiers: [], drive: "electric" } },
          { ...line, id: 5, title: "Old van", summary: null, problem: "length_m: 90 is not allowed" },
        ],
      }),
    });
    openPage(<JobsPage />);
    const [first, second] = (await screen.findAllByRole("link", { name: "Estate car" })).map((link) =>
      link.closest("tr"),
    );
    expect(first?.textContent).toContain("Marram, Tern");
    expect(second?.textContent).toContain("none yet");
    const old = screen.getByRole("link", { name: "Old van" }).closest("tr");
    expect(old?.textContent).toContain("length_m: 90 is not allowed");
    expect(screen.queryByRole("button", { name: "Show more" })).toBeNull();
    expect(first?.querySelector("a")?.getAttribute("href")).toBe("/jobs/3/load");
  });
});

describe("the log-in", () => {
  it("takes a name and a password, says when they are wrong, and offers the demo only where there is one", async () => {
    serve({ "POST /api/v1/session": () => new Refusal("Name or password is wrong.", "", 401) });
    openPage(<LogInPage demo={false} />);
    expect(screen.queryByRole("button", { name: /demo/ })).toBeNull();
    await userEvent.type(screen.getByLabelText("Name"), "ines");
    await userEvent.type(screen.getByLabelText("Password"), "secret{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("Name or password is wrong.");
    expect(asked).toEqual([["POST /api/v1/session", { username: "ines", password: "secret" }]]);
    cleanup();
    serve({ "POST /api/v1/session/demo": () => ({ workshop: "Saltmarsh" }) });
    openPage(<LogInPage demo />);
    await userEvent.click(screen.getByRole("button", { name: "Enter the demo workshop" }));
    await waitFor(() => expect(asked.map(([route]) => route)).toEqual(["POST /api/v1/session/demo"]));
  });
});
