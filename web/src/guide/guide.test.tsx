// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import file from "../../../docs/guide/glossary.md?raw";
import { openPage } from "../test/page";
import { Article } from "./Article";
import { entriesOf, slugOf, termIn } from "./glossary";
import { insideOf, PAGES } from "./pages";
import { Terms } from "./Terms";

const texts = import.meta.glob<string>("../../../docs/guide/*.md", {
  eager: true,
  query: "?raw",
  import: "default",
});
const entries = entriesOf(file);
afterEach(cleanup);

describe("the glossary", () => {
  it("has the words of the work alone, each once", () => {
    const words = entries.map(({ word }) => word);
    expect(words).toContain("impedance rise");
    expect(words).not.toContain("bottleneck");
    expect(new Set(words.map(slugOf)).size).toBe(words.length);
  });

  it("is found in a label by its longest word, whole, in the plural and at a line's head", () => {
    const word = (text: string) => termIn(text, entries)?.entry.word ?? null;
    expect(word("Impedance rise")).toBe("impedance rise");
    expect(word("Test the ground return …")).toBe("ground return");
    expect(word("Speaker leads")).toBe("speaker lead");
    expect([word("Drawing"), word("Overlapping"), word("Bandages"), word("RMSE")]).toEqual([
      null,
      null,
      null,
      null,
    ]);
    expect(termIn("Total path, volts", entries)).toMatchObject({
      before: "",
      term: "Total path",
      after: ", volts",
    });
  });

  it("opens where its word stands, without leaving the page", async () => {
    openPage(<Terms>State of charge</Terms>);
    await userEvent.click(await screen.findByRole("link", { name: "State of charge" }));
    expect(screen.getByRole("dialog").textContent).toContain("how full a battery is");
  });
});

describe("the guide", () => {
  it("has every page that it lists and shows every picture that it names", () => {
    expect(Object.keys(texts).map((path) => /(\w+)\.md$/.exec(path)?.[1])).toEqual(
      expect.arrayContaining(PAGES.map(([key]) => key)),
    );
    for (const [path, text] of Object.entries(texts)) {
      const links = [...text.matchAll(/(?<!!)\[[^\]]+\]\(([^)]+)\)/g)].map((each) => each[1] ?? "");
      expect(
        links.filter((href) => insideOf(href) === null),
        path,
      ).toEqual([]);
      openPage(<Article text={text} />);
      const pictures = screen.queryAllByRole("img");
      expect(pictures.length, path).toBe([...text.matchAll(/!\[/g)].length);
      for (const each of pictures) expect(each.getAttribute("src"), path).toMatch(/\.png/);
      cleanup();
    }
  });

  it("is set in the interface's own tables", () => {
    openPage(<Article text={"# A\n\n| x | y |\n|---|---|\n| 1 | 2 |\n\n> Mind this."} />);
    expect(screen.getByRole("table").textContent).toBe("xy12");
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("A");
  });
});
