// @vitest-environment jsdom
import { Refusal, serve } from "../test/server";
import { beforeEach, describe, expect, it } from "vitest";

import { api, Problem } from "./client";

const tokens: Record<string, string | null> = {};
const noted = (_: never, request: Request) => {
  tokens[request.method] = request.headers.get("X-CSRFToken");
  return { items: [], count: 0 };
};

beforeEach(() => {
  document.cookie = "other=1";
  document.cookie = "csrftoken=a-token";
});

describe("the client", () => {
  it("proves with the token of its page that a change comes from there, and sends none to read", async () => {
    serve({ "GET /api/v1/jobs": noted, "POST /api/v1/jobs": noted });
    await api.GET("/api/v1/jobs");
    await api.POST("/api/v1/jobs", { body: { document: {} as never } });
    expect(tokens).toEqual({ GET: null, POST: "a-token" });
  });

  it("packs what is long, and sends what is short as it is", async () => {
    const seen: [string | null, unknown][] = [];
    const note = (body: unknown, request: Request) => {
      seen.push([request.headers.get("Content-Encoding"), body]);
    };
    serve({ "POST /api/v1/jobs": note as never });
    for (const notes of ["short", "long ".repeat(2000)])
      await api.POST("/api/v1/jobs", { body: { document: { notes } as never } });
    expect(seen).toEqual([
      [null, { document: { notes: "short" } }],
      ["gzip", { document: { notes: "long ".repeat(2000) } }],
    ]);
  });

  it("outlives its page as far as the browser lets it, by what is sent", async () => {
    const seen: boolean[] = [];
    serve({
      "POST /api/v1/jobs": ((_: unknown, { keepalive }: Request) => void seen.push(keepalive)) as never,
    });
    const noise = Array.from({ length: 200_000 }, (_, i) => Math.sin(i).toString(36).at(-1)).join("");
    for (const notes of ["short", "long ".repeat(20_000), noise.slice(0, 70_000), noise]) {
      const body = { document: { notes } as never };
      await api.POST("/api/v1/jobs", { body, keepalive: true });
    }
    expect(seen).toEqual([true, true, true, false]);
  });

  it("throws what the server refuses, in its words and with the field they are about", async () => {
    serve({ "GET /api/v1/jobs": () => new Refusal("'name' sorts nothing", "sort", 422) });
    const refused = await api.GET("/api/v1/jobs").catch((problem: unknown) => problem);
    expect(refused).toBeInstanceOf(Problem);
    expect(refused).toMatchObject({ status: 422, message: "'name' sorts nothing", field: "sort" });
  });
});
