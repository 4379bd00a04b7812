import { describe, expect, it } from "vitest";

import { insideOf } from "./pages";

describe("a link of the guide", () => {
  it("leads inside the application where it names another page, and nowhere else", () => {
    expect(insideOf("glossary.md#reserve")).toBe("/guide/glossary#reserve");
    expect(insideOf("model.md")).toBe("/guide/model");
    for (const href of ["other.md", "../model.md", "model.md.txt", "model", "#model.md"])
      expect(insideOf(href)).toBeNull();
  });
});
