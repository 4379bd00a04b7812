// @vitest-environment jsdom
import { cleanup, render, renderHook, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";

import { useKeys } from "../job/useKeys";
import { FileButton } from "./FileButton";
import { NumberBox } from "./NumberBox";
import { Tabs } from "./Tabs";

afterEach(cleanup);

describe("tabs", () => {
  const VIEWS = [
    ["sizes", "Path and sizes"],
    ["fuses", "Fuses"],
    ["schedule", "Schedule"],
  ] as const;

  it("are walked with the arrow keys, and one alone is in the way of Tab", async () => {
    const seen: string[] = [];
    function Views() {
      const [view, setView] = useState<(typeof VIEWS)[number][0]>("fuses");
      const show = (picked: typeof view) => {
        seen.push(picked);
        setView(picked);
      };
      return (
        <Tabs label="Views" value={view} options={VIEWS} onChange={show}>
          the {view}
        </Tabs>
      );
    }
    render(<Views />);
    await userEvent.tab();
    expect(document.activeElement).toBe(screen.getByRole("tab", { name: "Fuses", selected: true }));
    await userEvent.keyboard("{ArrowRight}");
    expect(document.activeElement).toBe(screen.getByRole("tab", { name: "Schedule", selected: true }));
    await userEvent.keyboard("{ArrowRight}");
    await userEvent.click(screen.getByRole("tab", { name: "Fuses" }));
    expect(seen).toEqual(["schedule", "sizes", "fuses"]);
    const panel = screen.getByText("the fuses");
    expect(panel.getAttribute("role")).toBe("tabpanel");
    expect(panel.getAttribute("aria-labelledby")).toBe(screen.getByRole("tab", { name: "Fuses" }).id);
    expect(screen.getAllByRole("tab").map((tab) => tab.tabIndex)).toEqual([-1, 0, -1]);
  });
});

describe("a number outside a job", () => {
  it("is taken as it is typed, with a decimal comma too, and what is none is marked and not taken", async () => {
    const taken: number[] = [];
    render(<NumberBox label="Length" unit="s" value={30} onChange={(value) => taken.push(value)} />);
    const box = screen.getByRole("textbox", { name: "Length, s" });
    await userEvent.clear(box);
    expect(box.getAttribute("aria-invalid")).toBe("true");
    await userEvent.type(box, "2,5");
    expect(taken).toEqual([2, 2, 2.5]); // "2", "2," and "2,5"
    await userEvent.type(box, "x");
    expect(box.getAttribute("aria-invalid")).toBe("true");
    expect(taken).toHaveLength(3);
    await userEvent.tab();
    expect((box as HTMLInputElement).value).toBe("30");
  });
});

describe("single keys", () => {
  it("work anywhere but in a field, and not with another key held", async () => {
    const pressed: string[] = [];
    renderHook(() => useKeys({ z: () => pressed.push("undo"), Z: () => pressed.push("redo") }));
    render(<input aria-label="Name" />);
    await userEvent.keyboard("z{Shift>}Z{/Shift}x");
    expect(pressed).toEqual(["undo", "redo"]);
    await userEvent.keyboard("{Control>}z{/Control}{Meta>}z{/Meta}");
    await userEvent.type(screen.getByLabelText("Name"), "zebra");
    expect(pressed).toHaveLength(2);
    expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("zebra");
  });
});

describe("a button for a file", () => {
  it("takes the same file again after it was refused", async () => {
    const taken: string[] = [];
    render(<FileButton label="Import" accept=".csv" busy={false} onFile={(file) => taken.push(file.name)} />);
    const input = screen.getByLabelText("Import", { selector: "input" }) as HTMLInputElement;
    for (const name of ["sheet.csv", "sheet.csv"])
      await userEvent.upload(input, new File(["x"], name, { type: "text/csv" }));
    expect(taken).toEqual(["sheet.csv", "sheet.csv"]);
    expect(input.value).toBe("");
    cleanup();
    render(<FileButton label="Import" accept=".csv" busy onFile={() => undefined} />);
    expect((screen.getByRole("button", { name: "Reading …" }) as HTMLButtonElement).disabled).toBe(true);
  });
});
