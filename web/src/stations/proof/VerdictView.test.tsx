// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

vi.mock("idb-keyval", () => import("../../test/keyval"));
import { asked, serve } from "../../test/server";
import type { ProofOut } from "../../api/client";
import { openJob } from "../../test/work";
import type { ReadingsLog } from "./useLog";
import { VerdictView } from "./VerdictView";

afterEach(cleanup);

const parameter = (field: string, accepted: boolean, told: number) => ({
  field,
  name: field,
  part: "the lead",
  unit: "Ω",
  before: 0.001,
  after: 0.0074,
  spread: 0.0003,
  spread_kept: 0.04,
  told,
  accepted,
  rows: [1],
  words: "",
});
const PROOF: ProofOut = {
  ids: [4],
  result: {
    readings: [],
    corrections: [
      parameter("return", true, 1),
      parameter("joints", true, 0.8),
      parameter("length", false, 0.3),
    ],
    suspects: [2],
    alternatives: [],
    confounded: [],
    outside_model: "",
    verdict: ["Ground return is more: look at the ground point."],
    next: [],
    answer: { before: 12.43, before_sigma: 0.1, after: 12.08, after_sigma: 0.04 },
  },
};
const log = { ready: true, current: [{ id: 4 }] } as unknown as ReadingsLog;

describe("the verdict", () => {
  it("puts into the job what was told and not unticked, and nothing that was told too little", async () => {
    serve({
      "POST /api/v1/proofs": () => PROOF,
      "POST /api/v1/proofs/accepted": () => ({ title: "corrected" }),
    });
    const { job } = openJob({ title: "as found" }, <VerdictView log={log} />);
    await screen.findByText(/look at the ground point/);
    expect(screen.getByRole<HTMLInputElement>("checkbox", { name: "Take length, the lead" }).disabled).toBe(
      true,
    );
    fireEvent.click(screen.getByRole("checkbox", { name: "Take joints, the lead" }));
    fireEvent.click(screen.getByRole("button", { name: "Put it into the job" }));
    await waitFor(() => expect(job()).toEqual({ title: "corrected" }));
    const sent = asked.find(([route]) => route.endsWith("/accepted"))?.[1];
    expect(sent).toMatchObject({ job: 1, document: { title: "as found" }, fields: ["return"] });
  });

  it("is ticked, and the job may be called proved, only where something was compared and lies inside", async () => {
    const reading = {
      ...{
        row: 1,
        words: "Volts",
        state: "At idle",
        unit: "V",
        predicted: 12.5,
        measured: 12.5,
        residual: 0,
      },
      ...{ low: 12, high: 13, share: 0, inside: true, bad: 0, suspect: false, why: "" },
      ...{ corrected: null, corrected_low: null, corrected_high: null },
    };
    const inside = { ...PROOF, result: { ...PROOF.result, readings: [reading] } };
    serve({ "POST /api/v1/proofs": () => inside });
    const { job } = openJob({ title: "as found", state: "fitted" }, <VerdictView log={log} />, {});
    await screen.findByText(/All 1 readings lie/);
    fireEvent.click(screen.getByRole("button", { name: "Mark the job as proved" }));
    expect(job()).toMatchObject({ state: "proved" });
    cleanup();
    serve({ "POST /api/v1/proofs": () => PROOF });
    openJob({ title: "as found", state: "fitted" }, <VerdictView log={log} />);
    await screen.findByText(/None of the readings can be held/);
    expect(screen.queryByRole("button", { name: "Mark the job as proved" })).toBeNull();
  });

  it("says where to begin while nothing was read", () => {
    serve({});
    openJob({}, <VerdictView log={{ ...log, current: [] }} />);
    screen.getByText(/take the first readings of the test card/);
  });
});
