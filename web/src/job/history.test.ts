import { describe, expect, it } from "vitest";

import { changed, opened, redone, undone } from "./history";

describe("undo and redo", () => {
  it("walks back and forth through changes", () => {
    let h = changed(changed(opened("a"), "b", "x", 0), "c", "y", 10);
    h = undone(undone(h));
    expect(h.present).toBe("a");
    expect(redone(redone(h)).present).toBe("c");
  });

  it("takes typing in one field as one step", () => {
    const h = changed(changed(changed(opened("1"), "12", "x", 0), "120", "x", 300), "120.5", "x", 600);
    expect(undone(h).present).toBe("1");
  });

  it("takes each change of the whole document as a step, however quickly they come", () => {
    const h = changed(changed(opened("a"), "b", "", 0), "c", "", 100);
    expect(undone(h).present).toBe("b");
  });

  it("forgets what was undone once something else is changed", () => {
    const h = changed(undone(changed(opened("a"), "b", "x", 0)), "c", "x", 5000);
    expect(redone(h).present).toBe("c");
  });

  it("stays put with nothing to undo", () => {
    expect(undone(opened("a")).present).toBe("a");
  });
});
