// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import { Problem } from "../api/client";
import { getAt } from "../api/quantity";
import { openJob } from "../test/work";
import { CheckField } from "./CheckField";
import { QuantityField } from "./QuantityField";
import { SelectField } from "./SelectField";
import { SystemVolts } from "./SystemVolts";
import { TextField } from "./TextField";

afterEach(cleanup);

const JOB = {
  cables: [
    {
      size: "4 AWG",
      length_m: { value: 5.5, origin: "assumed" },
      joints_ohm: { value: 0.0004, origin: "measured" },
      fuse_from_a: 100,
      engine_space: false,
    },
  ],
};
const box = (name: string) => screen.getByRole("textbox", { name });

async function type(name: string, text: string) {
  await userEvent.clear(box(name));
  if (text) await userEvent.type(box(name), text);
}

describe("the volts of a vehicle's system", () => {
  it("are a number in the file, 12 where it says nothing, and one of their own where it says so", async () => {
    const { job } = openJob({ vehicle: {} }, <SystemVolts />);
    const select = screen.getByRole("combobox", { name: "System" });
    expect(select).toHaveProperty("value", "12");
    await userEvent.selectOptions(select, "24 V");
    expect(getAt(job(), "vehicle.system_v")).toBe(24);
    cleanup();
    openJob({ vehicle: { system_v: 36 } }, <SystemVolts />);
    expect(screen.getByRole("combobox", { name: "System" })).toHaveProperty("value", "36");
  });
});

describe("a number of the job", () => {
  it("is no longer an assumption once somebody enters it, and understands a decimal comma", async () => {
    const { job } = openJob(JOB, <QuantityField path="cables.0.length_m" label="Length" unit="m" />);
    expect(screen.getByRole("button", { name: "Length: assumed" })).toBeTruthy();
    await type("Length", "6,25");
    expect(getAt(job(), "cables.0.length_m")).toBe(6.25);
    expect(screen.getByRole("button", { name: "Length: typed" })).toBeTruthy();
  });

  it("stays measured when a reading is corrected, and is shown in thousandths where that reads better", async () => {
    const { job } = openJob(
      JOB,
      <QuantityField path="cables.0.joints_ohm" label="Joints" unit="mΩ" per={1000} />,
    );
    expect(box("Joints")).toHaveProperty("value", "0.4");
    await type("Joints", "0.8");
    expect(getAt(job(), "cables.0.joints_ohm")).toEqual({ value: 0.0008, origin: "measured" });
  });

  it("says what is no number, and keeps it as it was typed", async () => {
    const { job } = openJob(JOB, <QuantityField path="cables.0.fuse_from_a" label="Fuse" unit="A" />);
    await userEvent.type(box("Fuse"), "x");
    expect(screen.getByRole("alert").textContent).toContain("“100x” is not a number.");
    expect(box("Fuse").getAttribute("aria-invalid")).toBe("true");
    await userEvent.tab();
    expect(box("Fuse")).toHaveProperty("value", "100x");
    expect(getAt(job(), "cables.0.fuse_from_a")).toBe("100x");
    await type("Fuse", "1,200");
    expect(screen.getByRole("alert").textContent).toContain("write 1200 or 1.200");
  });

  it("of a 24 V system shows what is taken where nobody stated it, and marks that as somebody's own", async () => {
    const forecast = { usual: { "cables.0.length_m": 11 } };
    const field = <QuantityField path="cables.0.length_m" label="Length" unit="m" />;
    const { job } = openJob(JOB, field, { forecast });
    expect(box("Length")).toHaveProperty("value", "11");
    await userEvent.click(screen.getByRole("button", { name: "Length: assumed" }));
    await userEvent.click(screen.getByRole("option", { name: /measured/ }));
    expect(getAt(job(), "cables.0.length_m")).toEqual({ value: 11, origin: "measured" });
  });

  it("is shown short and edited with all its digits", async () => {
    const work = openJob(
      { vehicle: { cabin_longest_m: { value: 48.123456, origin: "measured" } } },
      <QuantityField path="vehicle.cabin_longest_m" label="Volume" />,
    );
    expect(box("Volume")).toHaveProperty("value", "48.12");
    await userEvent.click(box("Volume"));
    expect(box("Volume")).toHaveProperty("value", "48.123456");
    await userEvent.tab();
    expect([box("Volume").getAttribute("value"), work.changes]).toEqual(["48.12", []]);
    await userEvent.tab({ shift: true });
    await userEvent.keyboard("50");
    expect(getAt(work.job(), "vehicle.cabin_longest_m")).toEqual({ value: 50, origin: "measured" });
  });

  it("may be empty only where that means something", async () => {
    const { job } = openJob(
      JOB,
      <>
        <QuantityField path="cables.0.fuse_from_a" label="Fuse" empty="none" />
        <QuantityField path="cables.0.length_m" label="Length" />
      </>,
    );
    await type("Fuse", "");
    await type("Length", "");
    expect(getAt(job(), "cables.0.fuse_from_a")).toBeNull();
    expect(getAt(job(), "cables.0.length_m")).toBe("");
    expect(screen.getByRole("alert").textContent).toContain("A number is needed here.");
    expect(box("Fuse").getAttribute("placeholder")).toBe("none");
  });

  it("shows what the server refused at the field that it is about, and nowhere else", () => {
    const problem = new Problem(
      422,
      "200 is not allowed; give a number from 0.05 to 60 m",
      "cables.0.length_m",
      null,
    );
    openJob(
      JOB,
      <>
        <QuantityField path="cables.0.length_m" label="Length" />
        <QuantityField path="cables.0.fuse_from_a" label="Fuse" />
      </>,
      { problem },
    );
    expect(screen.getAllByRole("alert").map((each) => each.textContent)).toEqual([`◆ ${problem.message}`]);
    expect(box("Length").getAttribute("aria-invalid")).toBe("true");
    expect(box("Fuse").getAttribute("aria-invalid")).toBe("false");
  });
});

describe("a word of the job", () => {
  it("is taken over as it is typed, and refused in place of its hint", async () => {
    const { job } = openJob(JOB, <TextField path="cables.0.size" label="Size" hint="such as 4 AWG" />);
    expect(screen.getByText("such as 4 AWG")).toBeTruthy();
    await type("Size", "1/0");
    expect(getAt(job(), "cables.0.size")).toBe("1/0");
    cleanup();
    const problem = new Problem(422, "'O' is not a conductor size", "cables.0.size", null);
    openJob(JOB, <TextField path="cables.0.size" label="Size" hint="such as 4 AWG" />, { problem });
    expect(screen.getByText("'O' is not a conductor size")).toBeTruthy();
  });
});

const WAYS = [
  ["chassis", "through the body"],
  ["cable", "a cable of its own"],
] as const;

describe("a choice of the job", () => {
  it("shows what holds where the file says nothing, and may set more than itself", async () => {
    const { changes } = openJob(
      JOB,
      <SelectField path="cables.0.return.kind" label="Ground return" options={WAYS} fallback="cable" />,
    );
    expect(screen.getByRole("combobox", { name: "Ground return" })).toHaveProperty("value", "cable");
    await userEvent.selectOptions(screen.getByRole("combobox"), "chassis");
    expect(changes).toEqual([["cables.0.return.kind", "chassis"]]);
    cleanup();
    const picked: string[] = [];
    openJob(
      JOB,
      <SelectField
        path="cables.0.return.kind"
        label="Ground return"
        options={WAYS}
        onPick={(way) => picked.push(way)}
      />,
    );
    await userEvent.selectOptions(screen.getByRole("combobox"), "cable");
    expect(picked).toEqual(["cable"]);
  });
});

describe("a yes or no of the job", () => {
  it("is ticked and unticked", async () => {
    const { job } = openJob(JOB, <CheckField path="cables.0.engine_space" label="In the engine's space" />);
    await userEvent.click(screen.getByRole("checkbox"));
    expect(getAt(job(), "cables.0.engine_space")).toBe(true);
    await userEvent.click(screen.getByRole("checkbox"));
    expect(getAt(job(), "cables.0.engine_space")).toBe(false);
  });
});
