// @vitest-environment jsdom
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";

import type { DraftRow, Finding } from "../../api/client";
import { columnsOf, type Cells } from "./columns";
import { ReadingsGrid } from "./ReadingsGrid";
import { EMPTY_ROW } from "./rows";

afterEach(cleanup);

const READ: Cells[] = [
  { ...EMPTY_ROW, load_ohm: "4", supply_v: "14.3", supply_a: "33", power_w: "402" },
  { ...EMPTY_ROW, load_ohm: "2", supply_v: "14.1", supply_a: "63", power_w: "716" },
];

function open(start: Cells[], { draft, findings = [] }: { draft?: DraftRow[]; findings?: Finding[] } = {}) {
  let now = start;
  function Sheet() {
    const [rows, setRows] = useState(start);
    const [opened, setOpened] = useState<number | null>(null);
    return (
      <ReadingsGrid
        rows={rows}
        columns={columnsOf("watts", false)}
        draft={draft}
        findings={findings}
        opened={opened}
        onOpen={setOpened}
        onChange={(changed) => {
          now = changed;
          setRows(changed);
        }}
      />
    );
  }
  render(<Sheet />);
  return () => now;
}
const cell = (name: string) => screen.getByLabelText(name);
const focused = (name: string) => waitFor(() => expect(document.activeElement).toBe(cell(name)));

describe("the grid of readings", () => {
  it("goes down with Enter and the arrows, up with Shift and Enter, and makes a row only at the end", async () => {
    const rows = open(READ);
    await userEvent.click(cell("Drawn, A, row 1"));
    await userEvent.keyboard("{Enter}");
    await focused("Drawn, A, row 2");
    await userEvent.keyboard("{ArrowUp}");
    await focused("Drawn, A, row 1");
    await userEvent.keyboard("{ArrowDown}");
    await focused("Drawn, A, row 2");
    await userEvent.keyboard("{Shift>}{Enter}{/Shift}");
    await focused("Drawn, A, row 1");
    expect(rows()).toHaveLength(2);
    await userEvent.keyboard("{Enter}");
    await focused("Drawn, A, row 2");
    await userEvent.keyboard("{Enter}");
    await focused("Drawn, A, row 3");
    expect(rows()).toHaveLength(3);
    expect(rows()[2]).not.toHaveProperty("supply_a");
  });

  it("lets a choice keep its arrows and copies a row with the next load below it", async () => {
    const rows = open(READ);
    const kind = cell("Kind, row 1");
    kind.focus();
    await userEvent.keyboard("{ArrowDown}");
    expect(document.activeElement).toBe(kind);
    await userEvent.selectOptions(kind, "driver");
    await userEvent.keyboard("{Control>}{Enter}{/Control}");
    await focused("Under load, V, row 2");
    expect(rows().map((row) => [row.load_ohm, row.load_kind, row.power_w ?? ""])).toEqual([
      ["4", "reactive", "402"],
      ["3", "reactive", ""],
      ["2", "resistive", "716"],
    ]);
  });

  it("takes a block of a spreadsheet where it is pasted, and a single word as a word", async () => {
    const rows = open(READ);
    await userEvent.click(cell("Under load, V, row 2"));
    await userEvent.paste("13.9\t61\t700\n13.5\t90\t990");
    expect(rows().map((row) => [row.supply_v, row.supply_a, row.power_w])).toEqual([
      ["14.3", "33", "402"],
      ["13.9", "61", "700"],
      ["13.5", "90", "990"],
    ]);
    const drawn = cell("Drawn, A, row 1") as HTMLInputElement;
    drawn.setSelectionRange(0, drawn.value.length);
    await userEvent.click(drawn);
    await userEvent.clear(drawn);
    await userEvent.paste("34.5");
    expect(rows()[0]?.supply_a).toBe("34.5");
    expect(rows()).toHaveLength(3);
  });

  it("says at the row and at the cell what cannot be read, and leaves a row nobody has touched alone", () => {
    const problem = "400 is not allowed; give a number from 5 to 64 V";
    const none = { out_w: null, efficiency: null, heat_w: null };
    open([READ[0] as Cells, { ...EMPTY_ROW, supply_v: "400" }, EMPTY_ROW], {
      draft: [
        { out_w: 402, efficiency: 402 / 14.3 / 33, heat_w: 14.3 * 33 - 402, problem: "", column: "" },
        { ...none, problem, column: "supply_v" },
        { ...none, problem: "load_ohm: is missing", column: "load_ohm" },
      ] as unknown as DraftRow[],
    });
    expect(screen.getByText(/row 2:/).textContent).toContain(`row 2: supply_v: ${problem}`);
    expect(cell("Under load, V, row 2").getAttribute("aria-invalid")).toBe("true");
    expect(cell("Drawn, A, row 2").getAttribute("aria-invalid")).toBe("false");
    expect(screen.queryByText(/row 3:/)).toBeNull();
    // 402 W of 14.3 V times 33 A: 85 %, and the rest is heat.
    expect(within(screen.getAllByRole("row")[1] as HTMLElement).getByText("85 %")).toBeTruthy();
    expect(within(screen.getAllByRole("row")[1] as HTMLElement).getByText("70 W")).toBeTruthy();
  });

  it("keeps, excludes or corrects a reading only with a reason, and notes what was first read", async () => {
    const finding = {
      row: 2,
      code: "off_line",
      severity: "caution",
      title: "off its own line",
      text: "21 % low",
      why: "",
      remedy: "",
      settled: "",
    } as unknown as Finding;
    const rows = open(READ, { findings: [finding] });
    expect(screen.getByRole("button", { name: "Row 1: no findings" }).tabIndex).toBe(-1);
    await userEvent.click(screen.getByRole("button", { name: "Row 2: 1 findings" }));
    const correct = screen.getByRole("button", { name: "Correct it" }) as HTMLButtonElement;
    expect(correct.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Reason"), "digits swapped");
    await userEvent.click(correct);
    expect(rows()[1]).toMatchObject({
      reason: "digits swapped",
      as_read: "supply_v 14.1, supply_a 63, power_w 716",
    });
    await userEvent.click(screen.getByRole("button", { name: "Exclude from the fit" }));
    expect(rows()[1]).toMatchObject({ excluded: "yes", kept: "" });
    await userEvent.click(screen.getByRole("button", { name: "Open again" }));
    expect(rows()[1]).toMatchObject({ excluded: "", kept: "", as_read: "", reason: "", power_w: "716" });
    await userEvent.click(screen.getByRole("button", { name: "Remove row 1" }));
    expect(rows().map((row) => row.load_ohm)).toEqual(["2"]);
  });
});
