import fc from "fast-check";
import { describe, expect, it } from "vitest";

import type { Forecast } from "../api/client";
import { forecast } from "../test/pathExample";
import { draw, flows, leastWidth } from "./pathGeometry";

describe("the path strip", () => {
  it("lets as many watts leave each joint as enter it", () => {
    const { nodes, links } = flows(forecast);
    for (const { id } of nodes) {
      const into = links.filter((l) => l.target === id).reduce((sum, l) => sum + l.value, 0);
      const out = links.filter((l) => l.source === id).reduce((sum, l) => sum + l.value, 0);
      if (into > 0 && out > 0) expect(out).toBeCloseTo(into, 6);
    }
  });

  it("draws every band on one scale of watts", () => {
    const { bands } = draw(forecast, 1000, 150);
    const scales = bands.map((band) => band.width / band.watts);
    expect(Math.max(...scales) / Math.min(...scales)).toBeCloseTo(1, 6);
  });

  it("lets each band begin at the far edge of its joint and end at the near edge of the next", () => {
    const { joints, bands } = draw(forecast, 1000, 150);
    const at = new Map(joints.map((joint) => [joint.id, joint]));
    for (const { path, from, to, width } of bands) {
      const [x0, y0, , , , , x1] = path
        .slice(1)
        .split(/[ ,CL]/)
        .map(Number);
      expect(x0).toBeCloseTo((at.get(from)?.x ?? NaN) + 7, 6);
      expect(x1).toBeCloseTo(at.get(to)?.x ?? NaN, 6);
      expect(y0).toBeGreaterThanOrEqual((at.get(from)?.y ?? NaN) - 1e-6);
      expect((y0 ?? NaN) + width).toBeLessThanOrEqual(
        (at.get(from)?.y ?? NaN) + (at.get(from)?.height ?? NaN) + 1e-6,
      );
    }
  });

  it("tells of each source what it gives, or takes", () => {
    const told = (amps: number, at_limit = false) => {
      const source = { name: "Alternator", kind: "charger", node: "front", amps, watts: 13 * amps, at_limit };
      const path = { ...forecast.path, sources: [source] };
      return flows({ ...forecast, path } as Forecast).nodes.find((node) => node.label === "Alternator");
    };
    expect(told(42)?.detail).toBe("42 A");
    expect(told(9.5, true)?.detail).toBe("9.5 A, all it has");
    expect([told(-5)?.detail, told(-5)?.kind, told(5)?.kind]).toEqual(["5.0 A into it", "charge", "current"]);
    expect(told(0.01)).toBeUndefined();
  });

  it("runs from the sources on the left to the coils on the right", () => {
    const { joints } = draw(forecast, 1000, 150);
    const at = (label: string) => joints.find((joint) => joint.label === label)?.x ?? NaN;
    expect(at("Alternator")).toBe(0);
    expect(at("Alternator")).toBeLessThan(at("Front"));
    expect(at("Front")).toBeLessThan(at("Marram"));
    expect(at("In the coils")).toBeCloseTo(993, 0);
  });

  it("draws nothing when nothing flows", () => {
    const empty = {
      ...forecast,
      amplifiers: [],
      path: { nodes: [], sources: [], edges: [], vehicle_a: 0, vehicle_w: 0 },
    };
    expect(draw(empty as Forecast, 1000, 150).bands).toEqual([]);
  });

  /** The charger on a cable of its own to the body, where a strap leads to the battery and the run to the amplifier. */
  const strapped = {
    ...forecast,
    path: {
      ...forecast.path,
      nodes: ["front", "charger", "body", "amp:a1"].map((name) => ({
        name,
        words: name === "amp:a1" ? "Marram" : name,
        volts: 13.5,
      })),
      sources: [
        { name: "Alternator", kind: "charger", node: "charger", amps: 45, watts: 610, at_limit: false },
        { name: "Battery", kind: "bank", node: "front", amps: -1, watts: -13, at_limit: false },
      ],
      edges: [
        { name: "Charging", start: "charger", end: "body", amps: 45, drop_v: 0.1, heat_w: 5, watts_out: 605 },
        { name: "Strap", start: "front", end: "body", amps: -15, drop_v: -0.02, heat_w: 0.3, watts_out: 213 },
        { name: "Run", start: "body", end: "amp:a1", amps: 29, drop_v: 0.5, heat_w: 15, watts_out: 377 },
      ],
    },
  } as Forecast;

  it("starts at the charger and goes right, with the battery's strap on the charger's side of the run", () => {
    const { joints } = draw(strapped, 1200, 150);
    const at = (label: string) => joints.find((joint) => joint.label === label)?.column ?? NaN;
    expect(at("Alternator")).toBe(0);
    expect(at("Charger")).toBe(1);
    expect(at("Front")).toBe(1);
    expect(at("Body")).toBe(2);
    expect(at("Marram")).toBe(3);
  });

  it("names the cable that each band and each loss stands for", () => {
    const { bands, joints } = draw(strapped, 1200, 150);
    expect(new Set(bands.map((band) => band.cable))).toEqual(new Set(["Charging", "Strap", "Run", null]));
    expect(joints.filter((joint) => joint.cable).map((joint) => joint.cable)).toEqual(["Charging", "Run"]);
  });

  it("is drawn whichever way the current runs, and where a source rests", () => {
    const watts = fc.integer({ min: -900, max: 900 });
    fc.assert(
      fc.property(watts, watts, watts, watts, fc.boolean(), (charging, front, rear, run, car) => {
        const source = (name: string, node: string, w: number) => ({
          name,
          kind: "bank",
          node,
          amps: w / 13,
          watts: w,
          at_limit: false,
        });
        const edge = (name: string, start: string, end: string, w: number) => ({
          name,
          start,
          end,
          amps: w / 13,
          drop_v: 0.1,
          heat_w: Math.abs(w) / 50,
          watts_out: Math.abs(w),
        });
        const path = {
          ...forecast.path,
          nodes: ["front", "charger", "rear", "amp:a1"].map((name) => ({ name, words: name, volts: 13 })),
          sources: [
            source("Alternator", "charger", charging),
            source("Front", "front", front),
            source("Rear", "rear", rear),
          ],
          edges: [
            edge("Charging", "charger", "front", charging),
            edge("Run", "front", "rear", run),
            edge("Lead", "rear", "amp:a1", 480),
          ],
          vehicle_w: car ? 200 : 0,
        };
        const { joints, bands } = draw({ ...forecast, path } as Forecast, 1000, 150);
        expect(bands.length).toBeGreaterThan(0);
        for (const joint of joints) expect(Number.isFinite(joint.x + joint.y + joint.height)).toBe(true);
      }),
    );
  });

  it("asks for more width the more places stand in a row", () => {
    expect(leastWidth(strapped)).toBeGreaterThan(leastWidth(forecast));
  });
});
