// @vitest-environment jsdom
import { asked, serve } from "../../test/server";
import { cleanup, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import { getAt } from "../../api/quantity";
import { openJob } from "../../test/work";
import { SpeakerLeadFields, SpeakerLeadsView } from "./SpeakerLeadsView";

afterEach(cleanup);

const SIZES = ["16 AWG", "14 AWG", "12 AWG", "10 AWG", "8 AWG", "6 AWG", "4 AWG", "4 mm²"];
const lead = (laid: string | null, passesFrom: string, more: object = {}) => {
  const choices = SIZES.map((size, i) => ({
    size,
    awg: size.endsWith("AWG") ? size : "≈ 11 AWG",
    mm2: size.endsWith("mm²") ? size : "",
    conductor: "copper",
    ohm: 0.05 / (i + 1),
    lost_w: 80 / (i + 1),
    share: 0.03 / (i + 1),
    db: -0.1,
    lead_damping: 20 * (i + 1),
    damping: null,
    ampacity_a: 50,
    passes: i >= SIZES.indexOf(passesFrom),
    why: ["burns 3.0 %, 2 % allowed"],
  }));
  return {
    amplifier: "Marram",
    field: "amplifiers.0.speaker_lead",
    count: 1,
    rms_a: 21.4,
    lost_w: 26.7,
    now: choices.find(({ size }) => size === laid) ?? null,
    choices,
    ...more,
  };
};
const SHOP = { sizes: "awg", lengths: "m", shelf: [] };
async function open(lead: object) {
  serve({
    "GET /api/v1/workshop-settings": () => SHOP,
    "POST /api/v1/cable-options": () => ({ speaker_leads: [lead] }),
  });
  const work = openJob({ amplifiers: [{ speaker_lead: { size: "14 AWG" } }] }, <SpeakerLeadsView />, {});
  const table = within(await screen.findByRole("table", { name: "Speaker lead of Marram" }));
  return { ...work, sizes: () => table.getAllByRole("row").slice(1) };
}

describe("the speaker leads", () => {
  it("are offered around the one that is laid and the thinnest that passes, in the shop's kind of size", async () => {
    const { sizes, job } = await open(lead("14 AWG", "12 AWG"));
    expect(sizes().map((row) => row.querySelector("td")?.textContent)).toEqual(SIZES.slice(0, 5));
    expect(sizes()[1]?.textContent).toContain("as laid");
    expect(sizes()[1]?.textContent).toContain("burns 3.0 %, 2 % allowed");
    expect(sizes()[2]?.textContent).toContain("✓ passes");
    expect(screen.getByText(/One lead carries 21.4 A RMS/).textContent).toContain("27 W stay in it");
    await userEvent.click(screen.getByRole("button", { name: "Use 12 AWG for Marram" }));
    expect(getAt(job(), "amplifiers.0.speaker_lead.size")).toBe("12 AWG");
  });

  it("say what damping the lead alone allows where the amplifier's own is unknown, and count a pair", async () => {
    const known = lead("10 AWG", "10 AWG", { count: 2 });
    Object.assign(known.choices[3] ?? {}, { damping: 61.2 });
    const { sizes } = await open(known);
    expect(sizes().map((row) => row.querySelectorAll("td")[5]?.textContent)).toEqual([
      "≤ 40",
      "≤ 60",
      "61",
      "≤ 100",
      "≤ 120",
    ]);
    expect(screen.getByText(/2 leads, each carries/).textContent).toContain("stay in them");
  });

  it("are put in as an assumption where none was stated", async () => {
    serve({ "GET /api/v1/workshop-settings": () => SHOP });
    const { job } = openJob(
      { amplifiers: [{ id: "a1", name: "Marram" }], targets: {} },
      <SpeakerLeadFields />,
    );
    await userEvent.click(screen.getByRole("button", { name: "Add its speaker lead" }));
    expect(getAt(job(), "amplifiers.0.speaker_lead")).toEqual({
      size: "12 AWG",
      length_m: { value: 1.5, origin: "assumed" },
    });
    expect((screen.getByRole("textbox", { name: "Length" }) as HTMLInputElement).value).toBe("1.5");
    expect(asked.every(([route]) => route === "GET /api/v1/workshop-settings")).toBe(true);
  });
});
