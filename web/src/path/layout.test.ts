import fc from "fast-check";
import { describe, expect, it } from "vitest";

import type { Forecast } from "../api/client";
import { forecast } from "../test/pathExample";
import { flows } from "./flows";
import { layout, middleAt, outline } from "./layout";
import { strip } from "./strip";

const BOX = { x: 0, y: 0, width: 1000, height: 150 };

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
    const { bands } = layout(forecast, BOX);
    const scales = bands.map((band) => band.thickness / band.watts);
    expect(Math.max(...scales) / Math.min(...scales)).toBeCloseTo(1, 6);
  });

  it("lets each band begin at the far edge of its joint and end at the near edge of the next", () => {
    const { joints, bands } = layout(forecast, BOX);
    const at = new Map(joints.map((joint) => [joint.id, joint]));
    for (const band of bands) {
      const [from, target] = [at.get(band.from), at.get(band.target)];
      expect(band.x0).toBeCloseTo((from?.x ?? NaN) + 7, 6);
      expect(band.x1).toBeCloseTo(target?.x ?? NaN, 6);
      expect(band.y0 - band.thickness / 2).toBeGreaterThanOrEqual((from?.y ?? NaN) - 1e-6);
      expect(band.y0 + band.thickness / 2).toBeLessThanOrEqual(
        (from?.y ?? NaN) + (from?.height ?? NaN) + 1e-6,
      );
      const steps = outline(band)
        .split(/[ ,MCLZ]+/)
        .filter(Boolean)
        .map(Number);
      expect([steps[0], steps[6]]).toEqual([band.x0, band.x1]);
      expect(middleAt(band, band.x0)).toBeCloseTo(band.y0, 3);
      expect(middleAt(band, band.x1)).toBeCloseTo(band.y1, 3);
      expect(middleAt(band, (band.x0 + band.x1) / 2)).toBeCloseTo((band.y0 + band.y1) / 2, 3);
    }
  });

  it("tells of each source what it gives, or takes", () => {
    const told = (amps: number, at_limit = false) => {
      const source = {
        name: "Alternator",
        field: "chargers.0",
        kind: "charger",
        node: "front",
        amps,
        watts: 13 * amps,
        at_limit,
      };
      const path = { ...forecast.path, sources: [source] };
      return flows({ ...forecast, path } as Forecast).nodes.find((node) => node.label === "Alternator");
    };
    expect(told(42)?.detail).toBe("42 A");
    expect(told(9.5, true)?.detail).toBe("9.5 A, all it has");
    expect([told(-5)?.detail, told(-5)?.kind, told(5)?.kind]).toEqual(["5.0 A into it", "charge", "current"]);
    expect(told(0.01)).toBeUndefined();
  });

  it("runs from the sources on the left to the coils on the right", () => {
    const { joints } = layout(forecast, BOX);
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
    expect(layout(empty as Forecast, BOX).bands).toEqual([]);
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
        {
          name: "Alternator",
          field: "chargers.0",
          kind: "charger",
          node: "charger",
          amps: 45,
          watts: 610,
          at_limit: false,
        },
        {
          name: "Battery",
          field: "banks.0",
          kind: "bank",
          node: "front",
          amps: -1,
          watts: -13,
          at_limit: false,
        },
      ],
      edges: [
        { name: "Charging", start: "charger", end: "body", amps: 45, drop_v: 0.1, heat_w: 5, watts_out: 605 },
        { name: "Strap", start: "front", end: "body", amps: -15, drop_v: -0.02, heat_w: 0.3, watts_out: 213 },
        { name: "Run", start: "body", end: "amp:a1", amps: 29, drop_v: 0.5, heat_w: 15, watts_out: 377 },
      ],
    },
  } as Forecast;

  it("starts at the charger and goes right, with the battery's strap on the charger's side of the run", () => {
    const { joints } = layout(strapped, BOX);
    const at = (label: string) => joints.find((joint) => joint.label === label)?.column ?? NaN;
    expect(at("Alternator")).toBe(0);
    expect(at("Charger")).toBe(1);
    expect(at("Front")).toBe(1);
    expect(at("Body")).toBe(2);
    expect(at("Marram")).toBe(3);
  });

  it("leads from each band and each loss to the cable, the source, the amplifier or the load that it stands for", () => {
    const { bands, joints } = layout(strapped, BOX);
    const to = new Map([...bands, ...joints].map((each) => [each.id, each.to]));
    expect(to.get("heat of Run")).toBe("cable?cable=Run");
    expect(to.get("charger → body")).toBe("cable?cable=Charging");
    expect(to.get("source 0")).toBe("supply?at=chargers.0");
    expect(to.get("amp:a1")).toBe("amplifiers?at=amplifiers.0");
    expect(to.get("coils of a1")).toBe("load?at=amplifiers.0.load");
    expect(to.get("vehicle")).toBe("supply?at=vehicle");
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
        const { joints, bands } = layout({ ...forecast, path } as Forecast, BOX);
        expect(bands.length).toBeGreaterThan(0);
        for (const joint of joints) expect(Number.isFinite(joint.x + joint.y + joint.height)).toBe(true);
      }),
    );
  });

  it("is as wide as there is room, and wider where many places stand in a row", () => {
    expect(strip(strapped, 800).width).toBe(800);
    expect(strip(strapped, 300).width).toBeGreaterThan(strip(forecast, 300).width - 1);
    expect(strip(strapped, 800).height).toBe(strip(forecast, 1400).height);
  });
});
