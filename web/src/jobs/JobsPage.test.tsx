// @vitest-environment jsdom
import { asked, Refusal, serve } from "../test/server";
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import { LogInPage } from "../session/LogInPage";
import { openPage } from "../test/page";
import { JobsPage } from "./JobsPage";

afterEach(cleanup);

const address = () => screen.getByRole("status", { name: "address" }).textContent;

const VERDICT = {
  drive: "combustion",
  state: "found",
  idle_v: 12.349,
  delivered_w: 512.3,
  worst: "act",
  worst_title: "No fuse",
};
const NONE = { count: 0, items: [] };

describe("the jobs", () => {
  it("begin in an empty workshop with what can be done there, the demo only where there is one", async () => {
    serve({ "GET /api/v1/jobs": () => NONE, "GET /api/v1/session": () => ({ demo: false }) });
    openPage(<JobsPage />);
    const ways = await screen.findByRole("region", { name: "Where to begin" });
    expect(within(ways).queryByRole("button", { name: "Open the demo" })).toBeNull();
    expect(within(ways).getByLabelText("Import a bench sheet", { selector: "input" })).toBeTruthy();
    await userEvent.click(within(ways).getByRole("button", { name: "Start a job" }));
    expect(address()).toBe("/jobs/new");
  });

  it("say why they did not come, and are asked for again", async () => {
    let down = true;
    serve({
      "GET /api/v1/jobs": () => (down ? new Refusal("The workshop's storage is busy.", "", 503) : NONE),
    });
    openPage(<JobsPage />);
    expect((await screen.findByRole("alert")).textContent).toContain("storage is busy");
    expect(screen.queryByRole("region", { name: "Where to begin" })).toBeNull();
    down = false;
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    await screen.findByText(/No job yet/);
    expect(screen.queryByRole("alert")).toBeNull();
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
          {
            ...line,
            summary: {
              ...VERDICT,
              amplifiers: ["Marram", "Tern"],
              customer: "Ada Reed",
              plate: "SM 12",
              tags: ["long run"],
            },
          },
          {
            ...line,
            id: 4,
            summary: { ...VERDICT, amplifiers: [], tags: [], idle_v: null, delivered_w: null, worst: null },
          },
          { ...line, id: 5, title: "Old van", summary: null, problem: "length_m: 90 is not allowed" },
        ],
      }),
    });
    openPage(<JobsPage />);
    const [first, second] = (await screen.findAllByRole("link", { name: "Estate car" })).map((link) =>
      link.closest("tr"),
    );
    expect(first?.textContent).toContain("Marram, Tern");
    for (const words of ["12.35 V", "512 W", "No fuse", "as found", "Ada Reed · SM 12", "long run"])
      expect(first?.textContent).toContain(words);
    expect(second?.textContent).toContain("no amplifier yet");
    expect(second?.textContent).toContain("not checked yet");
    const old = screen.getByRole("link", { name: "Old van" }).closest("tr");
    expect(old?.textContent).toContain("length_m: 90 is not allowed");
    expect(screen.queryByRole("button", { name: "Show more" })).toBeNull();
    expect(first?.querySelector("a")?.getAttribute("href")).toBe("/jobs/3/load");
  });
});

describe("a job in the list", () => {
  const jobs = [1, 2].map((id) => ({
    id,
    title: `Job ${id}`,
    version: 1,
    updated_at: "",
    summary: null,
    problem: "",
  }));
  const routes = {
    "GET /api/v1/jobs": () => ({ count: 2, items: jobs }),
    "DELETE /api/v1/jobs/1": () => null,
    "DELETE /api/v1/jobs/2": () => null,
  };
  const deleted = () => asked.map(([route]) => route).filter((route) => route.startsWith("DELETE"));

  it("is removed only after it was asked for, and can be put back at once", async () => {
    serve({ ...routes, "POST /api/v1/removed/job/2/put-back": () => null });
    openPage(<JobsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Delete Job 1" }));
    await userEvent.click(await screen.findByRole("button", { name: "Keep" }));
    expect(deleted()).toEqual([]);
    await userEvent.click(screen.getByRole("button", { name: "Delete Job 2" }));
    await userEvent.click(await screen.findByRole("button", { name: "Remove" }));
    await userEvent.click(await screen.findByRole("button", { name: "Put it back" }));
    await waitFor(() => expect(screen.queryByText("Job 2 was removed.")).toBeNull());
    const routesAsked = asked.map(([route]) => route).filter((route) => !route.startsWith("GET"));
    expect(routesAsked).toEqual(["DELETE /api/v1/jobs/2", "POST /api/v1/removed/job/2/put-back"]);
  });

  it("is put away and taken out of the archive", async () => {
    const put: unknown[] = [];
    serve({ ...routes, "PUT /api/v1/jobs/1/archived": (body) => (put.push(body), jobs[0]) });
    openPage(<JobsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Archive Job 1" }));
    await waitFor(() => expect(put).toEqual([{ archived: true }]));
    cleanup();
    const away = { ...jobs[0], archived: true };
    const queries: string[] = [];
    serve({
      "GET /api/v1/jobs": (_, request) => (
        queries.push(new URL(request.url).search),
        { count: 1, items: [away] }
      ),
      "PUT /api/v1/jobs/1/archived": (body) => (put.push(body), away),
    });
    openPage(<JobsPage />);
    await userEvent.selectOptions(screen.getByLabelText("Which jobs"), "archived");
    await waitFor(() => expect(queries.at(-1)).toContain("archived=true"));
    await userEvent.click(await screen.findByRole("button", { name: "Take Job 1 out of the archive" }));
    await waitFor(() => expect(put.at(-1)).toEqual({ archived: false }));
  });

  it("is copied with all that is in it, found by its title, and sorted", async () => {
    const made = { title: "Job 1", banks: [{ name: "Front" }] };
    serve({
      ...routes,
      "GET /api/v1/jobs/1": () => ({ id: 1, document: made }),
      "POST /api/v1/jobs": () => ({ id: 9 }),
    });
    openPage(<JobsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Copy Job 1" }));
    await waitFor(() =>
      expect(asked.find(([route]) => route === "POST /api/v1/jobs")?.[1]).toEqual({
        document: { ...made, title: "Copy of Job 1" },
      }),
    );
    const queries: string[] = [];
    serve({ "GET /api/v1/jobs": (_, request) => (queries.push(new URL(request.url).search), NONE) });
    await userEvent.type(screen.getByLabelText(/^Find a job/), "van");
    await screen.findByText("No job is like that.");
    await userEvent.selectOptions(screen.getByLabelText("Order of the jobs"), "title");
    await waitFor(() => expect(queries.at(-1)).toContain("sort=title"));
    expect(queries.at(-1)).toContain("search=van");
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
