// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import * as store from "../test/keyval";

vi.mock("idb-keyval", () => import("../test/keyval"));
const { arrived, forget, keep, kept } = await import("./drafts");

const RECORD = { version: 3, document: { title: "Van" }, past: [], future: [], at: 1 };

beforeEach(() => {
  store.browser.clear();
  localStorage.clear();
});
afterEach(() => void (store.slow.until = null));

describe("what this browser keeps", () => {
  it("waits no longer once the server has it, also where its page was gone by then", async () => {
    await keep("job:1", RECORD);
    await arrived("job:1", { version: 4, document: { title: "Va" } });
    expect(await kept("job:1")).toEqual({ ...RECORD, version: 4 });
    await arrived("job:1", { version: 5, document: { title: "Van" } });
    expect(await kept("job:1")).toEqual({ ...RECORD, version: 5, document: null });
  });

  it("outlives a page that is left before the store has written it", async () => {
    await keep("job:1", RECORD);
    store.slow.until = new Promise(() => undefined);
    void keep("job:1", { ...RECORD, document: { title: "Vans" }, at: 2 });
    window.dispatchEvent(new Event("pagehide"));
    store.slow.until = null;
    expect(await kept("job:1")).toMatchObject({ document: { title: "Vans" } });
    expect(localStorage.length).toBe(0);
    await forget("job:1");
    window.dispatchEvent(new Event("pagehide"));
    expect(await kept("job:1")).toBeNull();
  });

  it("is never an older thing that some page left behind", async () => {
    store.slow.until = new Promise(() => undefined);
    void keep("job:1", RECORD);
    window.dispatchEvent(new Event("pagehide"));
    store.slow.until = null;
    await keep("job:1", { ...RECORD, document: { title: "Later" }, at: 2 });
    expect(await kept("job:1")).toMatchObject({ document: { title: "Later" } });
  });

  it("is not hidden by something left behind that cannot be read", async () => {
    await keep("job:1", RECORD);
    localStorage.setItem("under-hood:left:job:1", "{half of a dra");
    expect(await kept("job:1")).toEqual(RECORD);
  });

  it("has what was typed while the server's answer was taken over", async () => {
    await keep("job:1", RECORD);
    const answer = arrived("job:1", { version: 4, document: { title: "Van" } });
    await keep("job:1", { ...RECORD, document: { title: "Vans" }, at: 2 });
    await answer;
    expect(await kept("job:1")).toMatchObject({ document: { title: "Vans" } });
  });
});
