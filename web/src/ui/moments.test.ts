import { afterEach, describe, expect, it, vi } from "vitest";

import { moment, today } from "./moments";
import { applyWriting, dates } from "./writing";

afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
  applyWriting({ decimals: "point", dates: "iso" });
});

describe("days and moments", () => {
  it("are written as the workshop does, with two digits", () => {
    const at = new Date(2026, 2, 5, 8, 4).toISOString();
    const written = (["iso", "dmy", "mdy"] as const).map((kind) => {
      applyWriting({ decimals: "point", dates: kind });
      expect(dates()).toBe(kind);
      return moment(at);
    });
    expect(written).toEqual(["2026-03-05 08:04", "05.03.2026 08:04", "03/05/2026 08:04"]);
  });

  it("are those of this machine's own calendar: an evening west of Greenwich is not yet tomorrow", () => {
    vi.useFakeTimers({ now: Date.UTC(2026, 10, 28, 3, 30) });
    const local = { getFullYear: 2026, getMonth: 10, getDate: 27, getHours: 20, getMinutes: 30 } as const;
    for (const [part, value] of Object.entries(local) as [keyof typeof local, number][])
      vi.spyOn(Date.prototype, part).mockReturnValue(value);
    expect(today()).toBe("2026-11-27");
    expect(moment("2026-11-28T03:30:00Z")).toBe("2026-11-27 20:30");
  });
});
