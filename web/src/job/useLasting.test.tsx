// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { useLasting } from "./useLasting";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it("dims nothing for an answer that comes at once, and all within a tenth of a second for one that does not", () => {
  const { result, rerender } = renderHook(useLasting, { initialProps: false });
  const after = (ms: number) => act(() => vi.advanceTimersByTime(ms));
  for (const again of [1, 2]) {
    rerender(true);
    after(40);
    expect(result.current, `of time ${again}`).toBe(false);
    rerender(false);
    after(200);
    expect(result.current).toBe(false);
  }
  rerender(true);
  after(90);
  expect(result.current).toBe(true);
  rerender(false);
  expect(result.current).toBe(false);
});
