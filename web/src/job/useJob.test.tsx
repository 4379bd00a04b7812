// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

/** A server that keeps one job with its version, refuses lengths above 60 m, and notes what it is asked. */
const server = vi.hoisted(() => {
  const it = {
    title: "Estate car",
    version: 3,
    saves: [] as [number, string][],
    slow: 0,
    given_up: [] as string[],
  };
  const answer = (status: number, body: unknown) =>
    new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
  const job = () => ({
    id: 7,
    version: it.version,
    updated_at: "",
    document: { title: it.title, banks: [] },
  });
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = request.method === "GET" ? {} : await request.json();
    request.signal.addEventListener("abort", () => it.given_up.push(body.document?.title));
    await new Promise((done) => setTimeout(done, it.slow));
    if (request.url.endsWith("/api/v1/forecasts"))
      return body.document.title === "refused"
        ? answer(422, { detail: "not allowed", errors: [{ path: "title" }] })
        : answer(200, { of: body.document.title });
    if (request.method === "GET") return answer(200, job());
    if (body.version !== it.version) return answer(409, { detail: "somebody else saved it" });
    it.version += 1;
    it.title = body.document.title;
    it.saves.push([body.version, it.title]);
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
const titleOf = (work: ReturnType<typeof open>) =>
  (work.result.current.forecast as unknown as { of: string } | null)?.of;

beforeEach(() =>
  Object.assign(server, { title: "Estate car", version: 3, saves: [], slow: 0, given_up: [] }),
);
afterEach(cleanup);

describe("a job that is worked on", () => {
  it("saves by itself, each time over the version before", async () => {
    const work = open();
    await waitFor(() => expect(titleOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("title", "first"));
    await waitFor(() => expect(server.saves).toEqual([[3, "first"]]), { timeout: 3000 });
    await waitFor(() => expect(work.result.current.save.is).toBe("saved"));
    act(() => work.result.current.change("title", "second"));
    await waitFor(() => expect(server.saves.at(-1)).toEqual([4, "second"]), { timeout: 3000 });
    expect(work.result.current.problem).toBeNull();
  });

  it("keeps the last forecast in view when a value is refused, and never stores that value", async () => {
    const work = open();
    await waitFor(() => expect(titleOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("title", "refused"));
    await waitFor(() => expect(work.result.current.problem?.message).toBe("not allowed"));
    expect(titleOf(work)).toBe("Estate car");
    expect(work.result.current.fresh).toBe(false);
    await new Promise((done) => setTimeout(done, 700));
    expect(server.saves).toEqual([]);
  });

  it("stores nothing on a slow line before its own forecast has come, which may refuse it", async () => {
    const work = open();
    await waitFor(() => expect(work.result.current.fresh).toBe(true));
    server.slow = 900;
    act(() => work.result.current.change("title", "refused"));
    expect([work.result.current.fresh, titleOf(work)]).toEqual([false, "Estate car"]);
    await new Promise((done) => setTimeout(done, 750));
    expect([server.saves, work.result.current.problem]).toEqual([[], null]);
    await waitFor(() => expect(work.result.current.problem?.message).toBe("not allowed"));
    expect(server.saves).toEqual([]);
  });

  it("gives up the forecast of a value that was changed again before the answer", async () => {
    const work = open();
    await waitFor(() => expect(work.result.current.fresh).toBe(true));
    server.slow = 100;
    act(() => work.result.current.change("title", "Estate"));
    await new Promise((done) => setTimeout(done, 20));
    act(() => work.result.current.change("title", "Estate cars"));
    await waitFor(() => expect(titleOf(work)).toBe("Estate cars"));
    expect(server.given_up).toEqual(["Estate"]);
    await waitFor(() => expect(server.saves).toEqual([[3, "Estate cars"]]), { timeout: 3000 });
  });

  it("is saved when it is left right after a change, and read back only then", async () => {
    const work = open();
    await waitFor(() => expect(titleOf(work)).toBe("Estate car"));
    act(() => work.result.current.change("title", "left at once"));
    await waitFor(() => expect(work.result.current.fresh).toBe(true));
    server.slow = 400;
    work.unmount();
    await new Promise((done) => setTimeout(done, 10)); // another place is open meanwhile; the save is still on its way
    expect(server.saves).toEqual([]);
    const again = open(work.client);
    await waitFor(() => expect(again.result.current.job?.title).toBe("left at once"));
    expect(server.saves).toEqual([[3, "left at once"]]);
    expect(again.result.current.version).toBe(4);
  });

  it("leaves nothing to save when nothing was changed", async () => {
    const work = open();
    await waitFor(() => expect(titleOf(work)).toBe("Estate car"));
    work.unmount();
    await new Promise((done) => setTimeout(done, 100));
    expect(server.saves).toEqual([]);
  });

  it("tells when somebody else saved it meanwhile", async () => {
    const work = open();
    await waitFor(() => expect(titleOf(work)).toBe("Estate car"));
    server.version = 9;
    act(() => work.result.current.change("title", "mine"));
    await waitFor(() => expect(work.result.current.save).toMatchObject({ is: "refused" }), { timeout: 3000 });
    expect(server.saves).toEqual([]);
  });
});
