// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { browser } from "../test/keyval";

vi.mock("idb-keyval", () => import("../test/keyval"));

/** A server that keeps one job with its version, refuses lengths above 60 m, and notes what it is asked. */
const server = vi.hoisted(() => {
  const it = {
    car: "Estate car",
    volts: 14,
    version: 3,
    saves: [] as [number, string][],
    slow: 0,
    given_up: [] as string[],
    down: false,
    signed_out: false,
    base: "Estate car",
    asked: 0,
  };
  const answer = (status: number, body: unknown) =>
    new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
  const job = () => ({
    id: 7,
    version: it.version,
    updated_at: "",
    document: { title: "", vehicle: { template: it.car }, volts: it.volts, banks: [] },
  });
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = request.method === "GET" ? {} : await request.json();
    request.signal.addEventListener("abort", () => it.given_up.push(body.document?.vehicle.template));
    await new Promise((done) => setTimeout(done, it.slow));
    if (it.down) throw new TypeError("network");
    if (it.signed_out) return answer(401, { detail: "Log in first." });
    if (body.document?.vehicle.template === "all of it")
      return answer(422, { detail: "no such car", errors: [] });
    const wrong =
      body.document?.vehicle.template === "refused"
        ? "vehicle.template"
        : body.document?.volts < 0
          ? "volts"
          : null;
    if (wrong) return answer(422, { detail: "not allowed", errors: [{ path: wrong }] });
    if (request.url.endsWith("/api/v1/overviews")) {
      it.asked += 1;
      return new Response(JSON.stringify({ answer: { of: body.document.vehicle.template } }) + "\n");
    }
    if (request.url.includes("/revisions/"))
      return answer(200, { ...job(), document: { ...job().document, vehicle: { template: it.base } } });
    if (request.method === "GET") return answer(200, job());
    if (body.version !== it.version) return answer(409, { detail: "somebody else saved it" });
    it.version += 1;
    it.car = body.document.vehicle.template;
    it.volts = body.document.volts;
    it.saves.push([body.version, it.car]);
    return answer(200, job());
  });
  return it;
});

const { useJob } = await import("./useJob");

function open(client = new QueryClient({ defaultOptions: { queries: { retry: false } } })) {
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  );
  return { client, ...renderHook(() => useJob(7), { wrapper }) };
}
const carOf = (work: ReturnType<typeof open>) =>
  (work.result.current.forecast as unknown as { of: string } | null)?.of;
/** Whether the figures are of the job as it stands. */
const settled = ({ result: { current } }: ReturnType<typeof open>) =>
  current.forecast !== null && !current.old && !current.problem;

beforeEach(() => {
  browser.clear();
  Object.assign(server, { car: "Estate car", volts: 14, version: 3, saves: [], slow: 0, given_up: [] });
  Object.assign(server, { down: false, signed_out: false });
});
afterEach(cleanup);

describe("a job that is worked on", () => {
  it("saves by itself, each time over the version before", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("vehicle.template", "first"));
    await waitFor(() => expect(server.saves).toEqual([[3, "first"]]), { timeout: 3000 });
    await waitFor(() => expect(work.result.current.save).toBe("clean"));
    act(() => work.result.current.change("vehicle.template", "second"));
    await waitFor(() => expect(server.saves.at(-1)).toEqual([4, "second"]), { timeout: 3000 });
    expect(work.result.current.problem).toBeNull();
  });

  it("keeps the last forecast in view when a value is refused, and never stores that value", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("vehicle.template", "refused"));
    await waitFor(() => expect(work.result.current.problem?.message).toBe("not allowed"));
    expect(carOf(work)).toBe("Estate car");
    expect(settled(work)).toBe(false);
    await new Promise((done) => setTimeout(done, 700));
    expect(server.saves).toEqual([]);
  });

  it("has the figures of what is stored after a reload where all of what was typed is refused", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("vehicle.template", "all of it"));
    await waitFor(() => expect(work.result.current.problem?.message).toBe("no such car"));
    await waitFor(() =>
      expect(browser.get("job:7")).toMatchObject({ document: { vehicle: { template: "all of it" } } }),
    );
    cleanup();
    const again = open();
    await waitFor(() => expect(again.result.current.problem?.message).toBe("no such car"));
    await waitFor(() => expect(carOf(again)).toBe("Estate car"));
    expect([again.result.current.job?.vehicle.template, settled(again)]).toEqual(["all of it", false]);
  });

  it("stores nothing on a slow line before its own forecast has come, which may refuse it", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.slow = 900;
    act(() => work.result.current.change("vehicle.template", "refused"));
    expect([settled(work), carOf(work)]).toEqual([false, "Estate car"]);
    await new Promise((done) => setTimeout(done, 750));
    expect([server.saves, work.result.current.problem]).toEqual([[], null]);
    await waitFor(() => expect(work.result.current.problem?.message).toBe("not allowed"));
    expect(server.saves).toEqual([]);
  });

  it("gives up the forecast of a value that was changed again before the answer", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.slow = 100;
    act(() => work.result.current.change("vehicle.template", "Estate"));
    await new Promise((done) => setTimeout(done, 20));
    act(() => work.result.current.change("vehicle.template", "Estate cars"));
    await waitFor(() => expect(carOf(work)).toBe("Estate cars"));
    expect(server.given_up).toEqual(["Estate"]);
    await waitFor(() => expect(server.saves).toEqual([[3, "Estate cars"]]), { timeout: 3000 });
  });

  it("is saved when it is left right after a change, and read back only then", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("vehicle.template", "left at once"));
    await waitFor(() => expect(settled(work)).toBe(true));
    server.slow = 400;
    work.unmount();
    await new Promise((done) => setTimeout(done, 10)); // another place is open meanwhile; the save is still on its way
    expect(server.saves).toEqual([]);
    const again = open(work.client);
    await waitFor(() => expect(again.result.current.job?.vehicle.template).toBe("left at once"));
    expect(server.saves).toEqual([[3, "left at once"]]);
    expect(again.result.current.version).toBe(4);
  });

  it("only opened, does not touch what another tab keeps in the browser", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    expect(browser.has("job:7")).toBe(false);
    act(() => work.result.current.change("volts", 13));
    await waitFor(() => expect(browser.get("job:7")).toMatchObject({ version: 3, document: { volts: 13 } }));
    await waitFor(() => expect(server.saves).toHaveLength(1), { timeout: 3000 });
  });

  it("leaves nothing to save when nothing was changed", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    work.unmount();
    await new Promise((done) => setTimeout(done, 100));
    expect(server.saves).toEqual([]);
  });

  it("stores every good edit while one value is refused, and brings that one back after a reload", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    act(() => work.result.current.change("volts", -5));
    await waitFor(() => expect(work.result.current.problem?.field).toBe("volts"));
    act(() => work.result.current.change("vehicle.template", "good"));
    await waitFor(() => expect(server.saves).toEqual([[3, "good"]]), { timeout: 3000 });
    await waitFor(() => expect([work.result.current.save, carOf(work)]).toEqual(["refused", "good"]));
    expect(server.volts).toBe(14);
    work.unmount();
    const again = open();
    await waitFor(() =>
      expect(again.result.current.job).toMatchObject({ vehicle: { template: "good" }, volts: -5 }),
    );
    expect(again.result.current.broughtBack).not.toBeNull();
    await waitFor(() => expect(again.result.current.problem?.field).toBe("volts"));
    act(() => again.result.current.act({ do: "throw away" }));
    expect([again.result.current.job, again.result.current.save]).toMatchObject([{ volts: 14 }, "clean"]);
    act(() => again.result.current.act({ do: "undo" }));
    expect(again.result.current.job).toMatchObject({ volts: -5 });
  });

  it("keeps what was typed while nobody answers or nobody is logged in, over a reload, and sends it after", async () => {
    for (const trouble of ["down", "signed_out"] as const) {
      const work = open();
      await waitFor(() => expect(settled(work)).toBe(true));
      server[trouble] = true;
      const asked = vi.fn();
      window.addEventListener("under-hood-signed-out", asked);
      act(() => work.result.current.change("vehicle.template", `typed while ${trouble}`));
      const state = trouble === "down" ? "offline" : "signed out";
      await waitFor(() => expect(work.result.current.save).toBe(state), { timeout: 3000 });
      expect(asked.mock.calls.length > 0).toBe(trouble === "signed_out");
      work.unmount();
      await new Promise((done) => setTimeout(done, 50));
      server[trouble] = false;
      const again = open();
      await waitFor(() => expect(again.result.current.job?.vehicle.template).toBe(`typed while ${trouble}`));
      await waitFor(() => expect(server.car).toBe(`typed while ${trouble}`), { timeout: 3000 });
      await waitFor(() => expect(again.result.current.save).toBe("clean"));
      again.unmount();
    }
  });

  it("goes on by itself when somebody has logged in over the page", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.signed_out = true;
    act(() => work.result.current.change("vehicle.template", "mine"));
    await waitFor(() => expect(work.result.current.save).toBe("signed out"), { timeout: 3000 });
    server.signed_out = false;
    act(() => void window.dispatchEvent(new Event("under-hood-signed-in")));
    await waitFor(() => expect(server.saves).toEqual([[3, "mine"]]), { timeout: 3000 });
  });

  it("says that its figures are of before while nobody answers, and asks again", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.down = true;
    act(() => work.result.current.change("vehicle.template", "later"));
    await waitFor(() => expect([work.result.current.late, carOf(work)]).toEqual([true, "Estate car"]));
    server.down = false;
    await waitFor(() => expect([work.result.current.late, carOf(work)]).toEqual([false, "later"]), {
      timeout: 4000,
    });
    await waitFor(() => expect(work.result.current.save).toBe("clean"), { timeout: 4000 });
  });

  it("sends what was typed while a save was on its way when it is left", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.slow = 300;
    act(() => work.result.current.change("vehicle.template", "first"));
    await waitFor(() => expect(work.result.current.save).toBe("saving"), { timeout: 3000 });
    act(() => work.result.current.change("vehicle.template", "first, and more"));
    work.unmount();
    await waitFor(
      () =>
        expect(server.saves).toEqual([
          [3, "first"],
          [4, "first, and more"],
        ]),
      { timeout: 3000 },
    );
  });

  it("asks nothing anew for a word of the title, and saves it", async () => {
    const work = open();
    await waitFor(() => expect(settled(work)).toBe(true));
    server.asked = 0;
    act(() => work.result.current.change("title", "Dad's"));
    expect(work.result.current.forecast).not.toBeNull();
    await waitFor(() => expect(server.saves).toHaveLength(1), { timeout: 3000 });
    expect([server.asked, settled(work), carOf(work)]).toEqual([0, true, "Estate car"]);
    act(() => work.result.current.change("vehicle.template", "van"));
    await waitFor(() => expect(carOf(work)).toBe("van"));
    expect(server.asked).toBe(1);
  });

  it("asks once where somebody else saved it meanwhile, also after a reload, and saves what was chosen over theirs", async () => {
    const work = open();
    await waitFor(() => expect(carOf(work)).toBe("Estate car"));
    Object.assign(server, { version: 9, car: "theirs" });
    act(() => work.result.current.change("volts", 13));
    await waitFor(() => expect(work.result.current.save).toBe("conflict"), { timeout: 3000 });
    expect([work.result.current.saving?.theirs?.version, server.saves]).toEqual([9, []]);
    work.unmount();
    const again = open();
    await waitFor(() => expect(again.result.current.save).toBe("conflict"));
    const { saving, job } = again.result.current;
    expect([
      saving?.stored.document.vehicle.template,
      saving?.theirs?.document.vehicle.template,
      job,
    ]).toMatchObject(["Estate car", "theirs", { volts: 13 }]);
    const present = { ...job, vehicle: { template: "theirs" } } as NonNullable<typeof job>;
    act(() => again.result.current.tell({ what: "settled", present }));
    await waitFor(() => expect(server.saves).toEqual([[9, "theirs"]]), { timeout: 3000 });
    expect(server.volts).toBe(13);
  });
});
