// @vitest-environment jsdom
import { QueryClient } from "@tanstack/react-query";
import { cleanup, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import type { CableResult, Finding, Forecast, BasisChoices, SizeChoice } from "../../api/client";
import { getAt } from "../../api/quantity";
import { openJob } from "../../test/work";
import { CablesTable } from "./CablesTable";
import { FusesView } from "./FusesView";
import { MeterBox } from "./MeterBox";
import { SizesView } from "./SizesView";
import { Steps } from "./Steps";
import type { useCableChoices } from "./useCable";

afterEach(cleanup);

function cable(more: Partial<CableResult>): CableResult {
  return {
    name: "Main run",
    field: "cables.0",
    start: "front",
    end: "rear",
    start_words: "front battery",
    end_words: "rear",
    return_start_words: "the negative of the front battery",
    return_end_words: "the negative of the rear",
    role: "run",
    size: "1/0 AWG",
    awg: "1/0 AWG",
    mm2: "53.5 mm²",
    runs: 1,
    conductor: "copper",
    label_share: 1,
    mean_a: 40,
    rms_a: 41,
    peak_a: 60,
    ohm: 0.003,
    return_ohm: 0.001,
    return_from: "assumed",
    fittings_ohm: 0.0004,
    drop_v: 0.18,
    path_drop_v: 0.25,
    allowed_drop_v: 0.5,
    loss_w: 5,
    conductor_c: 32,
    ampacity_a: 285,
    worst_rms_a: 50,
    worst_peak_a: 70,
    worst_when: "at cruise",
    fuse_least_a: 62.5,
    fuse_most_a: 285,
    fuse_fits: [70, 80, 100],
    fuse_a: 70,
    fuse_why: "",
    fuse_at_start: true,
    fuse_at_end: false,
    cautions: [],
    ...more,
  };
}
const JOB = { cables: [{ size: "1/0 AWG", fuse_from_a: null, fuse_to_a: 250 }, { size: "4 AWG" }] };
const LEAD = cable({
  name: "Lead",
  field: "cables.1",
  start: "rear",
  end: "amp:a1",
  end_words: "Marram",
  role: "lead",
});
const nothing = () => undefined;

describe("the cables as a list", () => {
  it("shows both namings of a size, the fuses of both ends, and a mark where something is wrong", () => {
    const flag = { field: "cables.1.size", severity: "act", station: "cable" } as Finding;
    const cables = [cable({}), LEAD, cable({ name: "Strap", field: "cables.2", role: "strap" })];
    openJob(JOB, <CablesTable cables={cables} chosen={0} onChoose={nothing} />, {
      forecast: { cables, flags: [flag], figures: {}, amplifiers: [] } as unknown as Forecast,
    });
    const [run, lead, strap] = screen.getAllByRole("row").slice(1);
    expect(run?.textContent).toContain("1/0 AWG53.5 mm²");
    expect(run?.textContent).toContain("70 A advised250 A");
    expect(within(lead as HTMLElement).getByRole("img", { name: "act" })).toBeTruthy();
    expect(within(run as HTMLElement).queryByRole("img")).toBeNull();
    expect(strap?.textContent).toContain("strap");
  });

  it("names the cable that is picked", async () => {
    const picked: string[] = [];
    openJob(
      JOB,
      <CablesTable cables={[cable({}), LEAD]} chosen={0} onChoose={(name) => picked.push(name)} />,
    );
    expect(screen.getByRole("button", { name: "Main run" }).getAttribute("aria-pressed")).toBe("true");
    await userEvent.click(screen.getByRole("button", { name: "Lead" }));
    expect(picked).toEqual(["Lead"]);
  });
});

describe("the fuses", () => {
  it("are fitted as advised by one click, at the end that needs one", async () => {
    const { job } = openJob(JOB, <FusesView cables={[cable({})]} chosen={0} onChoose={nothing} />, {
      forecast: { cables: [], flags: [], amplifiers: [] } as unknown as Forecast,
    });
    expect(screen.getByRole("row", { name: /Main run/ }).textContent).toContain("70 to 100 A");
    await userEvent.click(screen.getByRole("button", { name: "Fit 70 A in Main run at the front battery" }));
    expect(getAt(job(), "cables.0.fuse_from_a")).toBe(70);
    expect(screen.queryByRole("button", { name: /Fit/ })).toBeNull();
  });

  it("are said to be missing where no standard one fits", () => {
    const why = "no standard fuse between 188 A and the cable's 180 A: use a larger cable or two runs";
    const none = cable({ fuse_a: null, fuse_fits: [], fuse_why: why });
    openJob(JOB, <FusesView cables={[none]} chosen={0} onChoose={nothing} />);
    expect(screen.getByText(`◆ Main run: ${why}.`)).toBeTruthy();
    expect(screen.getByRole("row", { name: /Main run/ }).textContent).toContain("none fits");
  });
});

function choice(size: string, passes: boolean, more: Partial<SizeChoice> = {}): SizeChoice {
  return {
    size,
    awg: size,
    mm2: "",
    runs: 1,
    conductor: "copper",
    area_mm2: 1,
    ohm: 0.001,
    drop_v: 0.4,
    path_drop_v: 0.5,
    loss_w: 3,
    ampacity_a: 100,
    heat_margin: 0.4,
    conductor_c: 40,
    weight_kg: 1,
    price: null,
    measured: false,
    fuse_a: passes ? 80 : null,
    passes,
    fails: passes ? [] : ["drop", "fuse"],
    why: passes ? [] : ["drops", "no fuse"],
    ...more,
  };
}
function basis(words: string, choices: SizeChoice[], more = {}): BasisChoices {
  const pick = choices.findIndex((each) => each.passes);
  return {
    choices,
    pick: pick < 0 ? null : pick,
    steps: [],
    basis: {
      programme: words === "music" ? "bass_heavy" : "tone",
      words,
      peak_a: 60,
      peak_when: "at idle",
      rms_a: 50,
      rms_when: "at cruise",
      why: "",
      pick: null,
      ...more,
    },
  } as unknown as BasisChoices;
}

describe("the sizes", () => {
  const choices = [choice("6 AWG", false), choice("4 AWG", true), choice("2 AWG", true)];
  const held = {
    name: "Lead",
    field: "cables.1",
    bases: [basis("a full tone", choices), basis("music", choices)],
    conductor: "copper",
    runs: 1,
    kind: "awg",
  };

  it("are judged by each basis and taken with one step that undo takes back", async () => {
    const client = new QueryClient();
    const before = { cables: [{}, { size: "6 AWG", strands: 7, strand_mm: 1 }] };
    const choices = { data: held, error: null } as unknown as ReturnType<typeof useCableChoices>;
    const wanted: unknown[] = [];
    const { job, changes } = openJob(
      before,
      <SizesView
        cable={cable({ ...LEAD, size: "6 AWG" })}
        choices={choices}
        wanted={{}}
        onWant={(one) => wanted.push(one)}
      />,
      { client },
    );
    await userEvent.click(screen.getByRole("radio", { name: "2" }));
    expect(wanted).toEqual([{ runs: 2 }]);
    const rows = screen.getAllByRole("row").slice(1);
    expect(rows[0]?.textContent).toContain("drops too much, no fuse fits");
    expect(rows[0]?.textContent).toContain("as laid");
    expect(rows[1]?.textContent).toContain("✓ smallest, fuse 80 A");
    await userEvent.click(screen.getByRole("button", { name: "Use 4 AWG" }));
    expect(changes.map(([path]) => path)).toEqual([""]);
    expect(getAt(job(), "cables.1")).toMatchObject({
      size: "4 AWG",
      runs: 1,
      strands: null,
      strand_mm: null,
    });
  });

  it("say what flows and when, once where it is the same, and why nothing passes", () => {
    const full = { peak_a: 150, peak_when: "all that the charger can give", rms_a: 150, why: "drops 0.9 V" };
    const two = [basis("a full tone", choices), basis("music", [], { ...full, rms_when: full.peak_when })];
    openJob(JOB, <Steps bases={two} />);
    expect(screen.getByText(/60 A at most, at idle; 50 A RMS, at cruise/)).toBeTruthy();
    expect(screen.getByText("150 A RMS, all that the charger can give")).toBeTruthy();
    expect(screen.getByText(/Nothing passes: drops 0.9 V/)).toBeTruthy();
  });
});

describe("a reading from a meter", () => {
  it("takes digits and a decimal comma and leaves the rest out", async () => {
    let read = "";
    const { changes } = openJob(
      {},
      <MeterBox label="Read, mV" value="" onChange={(value) => (read += value)} />,
    );
    await userEvent.type(screen.getByRole("textbox", { name: "Read, mV" }), "4,m7");
    expect([read, changes]).toEqual(["4.7", []]);
  });
});
