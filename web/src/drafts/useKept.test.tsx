// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { browser } from "../test/keyval";

vi.mock("idb-keyval", () => import("../test/keyval"));
const { useKept } = await import("./useKept");

const STORED = { version: 4, document: { note: "stored" } };
const open = () => renderHook(() => useKept("sheet:1", STORED));
const now = (hook: ReturnType<typeof open>) => hook.result.current;

beforeEach(() => browser.clear());
afterEach(cleanup);

describe("something typed that a button saves", () => {
  it("is there again after the page was left, over the version it was changed from, until it is thrown away", async () => {
    const first = open();
    expect([now(first).changed, now(first).broughtBack]).toEqual([false, null]);
    act(() => now(first).set({ note: "typed" }));
    first.unmount();
    const again = open();
    await waitFor(() => expect(now(again).value).toEqual({ note: "typed" }));
    expect([now(again).changed, now(again).version, now(again).broughtBack !== null]).toEqual([
      true,
      4,
      true,
    ]);
    act(() => now(again).throwAway());
    expect([now(again).value, now(again).changed]).toEqual([STORED.document, false]);
    again.unmount();
    const last = open();
    await new Promise((done) => setTimeout(done, 20));
    expect(now(last).value).toEqual(STORED.document);
  });

  it("takes two changes that come before the page is drawn again, one upon the other", async () => {
    const hook = open();
    const { set } = now(hook);
    act(() => {
      set((latest) => ({ ...latest, box: "sealed" }));
      set((latest) => ({ ...latest, note: "typed" }));
    });
    expect(now(hook).value).toEqual({ note: "typed", box: "sealed" });
    await waitFor(() => expect(browser.get("sheet:1")).toMatchObject({ document: now(hook).value }));
  });

  it("keeps what was typed while the server took the rest, and is done when it has all", async () => {
    const hook = open();
    act(() => now(hook).set({ note: "sent" }));
    act(() => now(hook).set({ note: "sent, and more" }));
    act(() => now(hook).saved({ note: "sent" }, 5));
    expect([now(hook).value.note, now(hook).changed, now(hook).version]).toEqual(["sent, and more", true, 5]);
    await waitFor(() => expect(browser.get("sheet:1")).toMatchObject({ version: 5 }));
    act(() => now(hook).saved({ note: "sent, and more" }, 6));
    expect(now(hook).changed).toBe(false);
    await waitFor(() => expect(browser.has("sheet:1")).toBe(false));
  });

  it("is saved over what somebody else saved meanwhile only by choice", () => {
    const hook = open();
    act(() => now(hook).set({ note: "mine" }));
    expect(now(hook).version).toBe(4);
    act(() => now(hook).settle({ note: "mine and theirs" }, 9));
    expect([now(hook).version, now(hook).value.note, now(hook).base.note]).toEqual([
      9,
      "mine and theirs",
      "stored",
    ]);
  });

  it("has what an older program did not know as the server has it", async () => {
    browser.set("sheet:1", { version: 4, document: { more: "kept" }, past: [], future: [], at: 1 });
    const hook = open();
    await waitFor(() => expect(now(hook).value).toEqual({ note: "stored", more: "kept" }));
  });

  it("does not put what was kept over what is being typed", async () => {
    browser.set("sheet:1", { version: 4, document: { note: "kept" }, past: [], future: [], at: 1 });
    const hook = open();
    act(() => now(hook).set({ note: "typed at once" }));
    await new Promise((done) => setTimeout(done, 20));
    expect(now(hook).value.note).toBe("typed at once");
  });
});
