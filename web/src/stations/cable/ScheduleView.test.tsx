// @vitest-environment jsdom
import { asked, Refusal, serve } from "../../test/server";
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import type { ScheduleRow, WorkshopSettings } from "../../api/client";
import { openJob } from "../../test/work";
import { ScheduleView } from "./ScheduleView";

afterEach(cleanup);

const SHOP = { sizes: "awg", lengths: "m", cut_share: 0.05, cut_ends_m: 0.2, currency: "EUR", shelf: [] };
const fuse = (rating_a: number | null, fitted: boolean, at_battery: boolean, why = "") => ({
  rating_a,
  kind: "bolt-in",
  fitted,
  at_battery,
  why,
});

function row(more: object): ScheduleRow {
  return {
    tag: "P1",
    cable: "Main run",
    words: "positive",
    start: "front battery",
    end: "rear battery",
    awg: "1/0 AWG",
    mm2: "53.5 mm²",
    conductor: "copper",
    metal: "copper",
    pieces: 1,
    length_m: 7.5,
    length_assumed: false,
    cut_m: 8.1,
    terminal_start: "ring",
    terminal_end: "ferrule",
    fuse_start: null,
    fuse_end: null,
    grommets: 0,
    grommets_assumed: false,
    weight_kg: 3.86,
    price: null,
    cautions: [],
    ...more,
  } as unknown as ScheduleRow;
}
const ROWS = [
  row({
    fuse_start: fuse(250, true, true),
    fuse_end: fuse(200, false, true),
    cautions: ["Disconnect the negative first.", "Use grommets."],
    grommets: 2,
    price: 120.5,
  }),
  row({
    tag: "P2",
    cable: "Lead to Marram",
    metal: "copper-clad aluminium, 10 %",
    conductor: "cca10",
    length_assumed: true,
    fuse_start: fuse(null, false, false, "no standard fuse fits: use a larger cable or two runs"),
    cautions: ["Use grommets.", "Use terminals rated for aluminium."],
    grommets: 1,
    grommets_assumed: true,
  }),
  row({ tag: "N1", words: "return" }),
];
const SCHEDULE = {
  title: "Delivery van",
  rows: ROWS,
  needed: [{ what: "Ring", detail: "for 1/0 AWG", count: 3, unit: "" }],
  open: ["P2: length is assumed"],
  weight_kg: 11.6,
  price: 120.5,
  unpriced: 2,
  currency: "EUR",
};

async function open(
  schedule: object = {},
  shop: Partial<WorkshopSettings> = {},
  more: Parameters<typeof serve>[0] = {},
) {
  serve({
    "POST /api/v1/cable-schedules": () => ({ ...SCHEDULE, ...schedule }),
    "GET /api/v1/workshop-settings": () => ({ version: 1, settings: { ...SHOP, ...shop } }),
    ...more,
  });
  const work = openJob({ title: "Delivery van" }, <ScheduleView />);
  await screen.findByRole("heading", { name: "Cable schedule: Delivery van" });
  return work;
}
const line = (name: RegExp) =>
  within(screen.getByRole("table", { name: "Cut list" })).getByRole("row", { name }).textContent;

describe("the cable schedule", () => {
  it("tells fitted fuses from advised ones and from those that no standard one fits", async () => {
    await open();
    expect(line(/^P1/)).toContain("250 A bolt-inwithin 450 mm of the front battery");
    expect(line(/^P1/)).toContain("200 A bolt-in ○ advisedwithin 450 mm of the rear battery");
    expect(line(/^P2/)).toContain("◆ no standard fuse fits: use a larger cable or two runs");
    expect(line(/^N1/)).toContain("ring · ferrule––");
  });

  it("marks what is assumed and what is not copper, and lists what is still open", async () => {
    await open();
    expect(line(/^P1/)).not.toContain("assumed");
    expect(line(/^P2/)).toContain("7.5 m○ assumed");
    expect(line(/^P2/)).toContain("1○ assumed");
    expect(line(/^P2/)).toContain("▲ copper-clad aluminium, 10 %");
    expect(screen.getByRole("region", { name: "Still open" }).textContent).toContain("P2: length is assumed");
    expect(screen.queryByText(/Nothing is left open/)).toBeNull();
  });

  it("refers from each row to the cautions that concern it, each written once", async () => {
    await open();
    const cautions = within(screen.getByRole("region", { name: "Cautions of the schedule" }));
    expect(cautions.getAllByRole("listitem").map((each) => each.textContent)).toEqual([
      "▲ 1 Disconnect the negative first.",
      "▲ 2 Use grommets.",
      "▲ 3 Use terminals rated for aluminium.",
    ]);
    expect(line(/^P1/)).toContain("▲ cautions 1, 2");
    expect(line(/^P2/)).toContain("▲ cautions 2, 3");
    expect(line(/^N1/)).not.toContain("caution");
  });

  it("puts the shop's unit first and keeps the other beside it, by the foot of 0.3048 m", async () => {
    await open({}, { sizes: "mm2", lengths: "ft" });
    await waitFor(() => expect(line(/^P1/)).toContain("53.5 mm²1/0 AWG"));
    expect(line(/^P1/)).toContain("24.6 ft26.6 ft8.1 m");
    cleanup();
    await open();
    expect(line(/^P1/)).toContain("1/0 AWG53.5 mm²");
    expect(line(/^P1/)).toContain("7.5 m8.1 m26.6 ft");
  });

  it("says of how many pieces no price is known, and prices only what has one", async () => {
    await open();
    expect(line(/^P1/)).toContain("3.9 kg121 EUR");
    expect(line(/^P2/)).toMatch(/–$/);
    expect(screen.getByText(/Together/).textContent).toBe(
      "Together 11.6 kg of conductor, cable for 121 EUR and 2 pieces without a price.",
    );
    cleanup();
    await open({ rows: [], price: null });
    expect(screen.getByText("No cable yet: pick an amplifier at station 2.")).toBeTruthy();
  });

  it("takes a changed table into the job, and a refused one changes nothing", async () => {
    const changed = { title: "Delivery van", cables: [{ name: "Main run", length_m: 6.4 }] };
    const refusal = "schedule.csv: line 4: length_m: 620 is not allowed; give a number from 0.05 to 60 m";
    const answers: unknown[] = [new Refusal(refusal), changed];
    const { job, changes } = await open(
      {},
      {},
      { "POST /api/v1/cable-schedules/import": () => answers.shift() },
    );
    const bring = screen.getByLabelText("Bring a changed CSV back", { selector: "input" });
    await userEvent.upload(bring, new File(["bad"], "schedule.csv", { type: "text/csv" }));
    expect((await screen.findByRole("alert")).textContent).toContain(refusal);
    expect(changes).toEqual([]);
    await userEvent.upload(bring, new File(["good"], "schedule.csv", { type: "text/csv" }));
    await waitFor(() => expect(job()).toEqual(changed));
    expect(screen.queryByRole("alert")).toBeNull();
    const sent = asked.filter(([route]) => route.endsWith("/import")).map(([, body]) => body);
    expect(sent).toHaveLength(2);
    expect(JSON.parse((sent[0] as { document: string }).document)).toEqual({ title: "Delivery van" });
  });
});
