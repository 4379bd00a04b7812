// @vitest-environment jsdom
import { asked, Refusal, serve } from "../../test/server";
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import type { CableResult } from "../../api/client";
import { getAt } from "../../api/quantity";
import { openJob } from "../../test/work";
import { DropTest } from "./DropTest";
import { GaugeTest } from "./GaugeTest";

afterEach(cleanup);

const CABLE = {
  name: "Main run",
  field: "cables.0",
  size: "1/0 AWG",
  conductor: "copper",
  role: "run",
  start_words: "front battery",
  end_words: "rear",
  return_start_words: "the negative of the front battery",
  return_end_words: "the rear's bare metal",
  drop_v: 0.18,
  ampacity_a: 285,
} as CableResult;
const LEAD = { ...CABLE, name: "Lead to Marram", field: "amplifiers.0.lead", role: "lead" } as CableResult;
const JOB = { title: "Estate car", cables: [{ name: "Main run", size: "1/0 AWG" }] };

async function fill(label: string, text: string) {
  await userEvent.type(screen.getByRole("textbox", { name: label }), text);
}
async function press(name: string | RegExp) {
  await userEvent.click(screen.getByRole("button", { name }));
}

describe("a voltage-drop test", () => {
  const measured = {
    ...JOB,
    cables: [{ name: "Main run", joints_ohm: { value: 0.00121, origin: "measured" } }],
  };
  const told = {
    found: { ohm: 0.00121, low_ohm: 0.00115, high_ohm: 0.00128, words: "0.046 V / 38 A = 1.21 mΩ" },
    was_ohm: 0.0004,
    drop_v: 0.27,
    drop_before_v: 0.24,
    document: measured,
  };

  it("is sent in volts, told with its bounds, and changes the job only when it is taken", async () => {
    serve({ "POST /api/v1/drop-tests": () => told });
    const { job, changes } = openJob(JOB, <DropTest cable={CABLE} what="joints" />);
    await press(/Test the joints/);
    expect(screen.getByText(/before the joint or fuse holder/)).toBeTruthy();
    expect(screen.getByText(/slips onto a positive post is a short/)).toBeTruthy();
    expect((screen.getByRole("button", { name: "Work it out" }) as HTMLButtonElement).disabled).toBe(true);
    await fill("Read, mV", "46");
    await fill("Clamp, A", "38,0");
    await press("Work it out");
    const answer = await screen.findByRole("status");
    expect(asked).toEqual([
      [
        "POST /api/v1/drop-tests",
        { document: JOB, field: "cables.0", what: "joints", reading: { volts: 0.046, amps: 38 } },
      ],
    ]);
    expect(answer.textContent).toContain(
      "1.21 mΩ, from 1.15 to 1.28 by the meters alone; 0.40 mΩ were reckoned with",
    );
    expect(answer.textContent).toContain("then drops 0.27 V at the peak, after 0.24 V");
    expect(changes).toEqual([]);
    await press("Take it as measured");
    expect(job()).toEqual(measured);
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  });

  it("of a lead may be read over the total path, and says at what a refusal is", async () => {
    const words = "1.00 mΩ are known parts: check where the probes stood, and the amps";
    serve({ "POST /api/v1/drop-tests": () => new Refusal(words, "volts") });
    const { changes } = openJob(JOB, <DropTest cable={LEAD} what="ground_return" />);
    await press(/Test the ground return/);
    expect(
      screen.getByText(/one on the rear's bare metal, the other on the negative of the front battery/),
    ).toBeTruthy();
    expect(screen.queryByText(/Engine off/)).toBeNull();
    await userEvent.click(screen.getByRole("checkbox", { name: /over the total path/ }));
    expect(screen.getByText(/Engine off.* through this amplifier alone/)).toBeTruthy();
    await fill("Read, mV", "20");
    await fill("Clamp, A", "40");
    await press("Work it out");
    expect((await screen.findByRole("alert")).textContent).toContain(words);
    expect(asked[0]?.[1]).toMatchObject({ field: "amplifiers.0.lead", what: "total_return" });
    expect(screen.queryByRole("button", { name: "Take it as measured" })).toBeNull();
    expect(changes).toEqual([]);
  });
});

describe("a cable held against its label", () => {
  const thin = {
    true: false,
    share: 0.617,
    label: "1/0 AWG",
    label_mm2: 53.5,
    copper_mm2: 33,
    gauge: "between 3 AWG and 2 AWG",
    ohm_per_m: 0.00053,
    words: "1050 strands of 0.2 mm: 33.0 mm²",
  };
  const after = { cables: [{ ...CABLE, drop_v: 0.272, ampacity_a: 206, fuse_most_a: 206 }] };

  it("is counted, told with what follows for drop and fuse, and reckoned with", async () => {
    serve({ "POST /api/v1/gauge-tests": () => thin, "POST /api/v1/forecasts": () => after });
    const before = { cables: [{ name: "Main run", size: "1/0 AWG", measured_ohm_per_m: 0.0004 }] };
    const { job } = openJob(before, <GaugeTest cable={CABLE} />);
    await press(/really that gauge/);
    await fill("Strands", "1050");
    await fill("One strand, mm", "0,2");
    await press("Hold it against the label");
    const told = await screen.findByRole("status");
    expect(asked[0]).toEqual([
      "POST /api/v1/gauge-tests",
      { size: "1/0 AWG", conductor: "copper", strands: { strands: 1050, strand_mm: 0.2 }, drop: null },
    ]);
    expect(told.textContent).toContain("It conducts 62 % of what 1/0 AWG should");
    await waitFor(() => expect(told.textContent).toContain("drops 0.272 V (now 0.180 V)"));
    expect(told.textContent).toContain("its fuse may be 206 A at most");
    await press("Reckon with what was measured");
    expect(getAt(job(), "cables.0")).toMatchObject({
      strands: { value: 1050, origin: "measured" },
      strand_mm: { value: 0.2, origin: "measured" },
      measured_ohm_per_m: null, // what is counted now stands in place of an older measurement
    });
  });

  it("is read by its drop, in millivolts over metres at its temperature, and takes the ohms", async () => {
    serve({
      "POST /api/v1/gauge-tests": () => ({ ...thin, true: true, share: 1 }),
      "POST /api/v1/forecasts": () => after,
    });
    const { job } = openJob(JOB, <GaugeTest cable={CABLE} />);
    await press(/really that gauge/);
    await userEvent.click(screen.getByRole("radio", { name: "By the volts it drops" }));
    for (const [label, text] of [
      ["Read, mV", "33"],
      ["Clamp, A", "20"],
      ["Between probes, m", "5"],
    ] as const)
      await fill(label, text);
    await press("Hold it against the label");
    const told = await screen.findByRole("status");
    expect(within(told).getByText("✓ True to its label")).toBeTruthy();
    expect(asked[0]?.[1]).toMatchObject({
      strands: null,
      drop: { volts: 0.033, amps: 20, length_m: 5, celsius: 20 },
    });
    await press("Reckon with what was measured");
    expect(getAt(job(), "cables.0.measured_ohm_per_m")).toEqual({ value: 0.00053, origin: "measured" });
    expect(getAt(job(), "cables.0.strands")).toBeUndefined();
  });
});
