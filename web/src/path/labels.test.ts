import fc from "fast-check";
import { describe, expect, it } from "vitest";

import type { Forecast } from "../api/client";
import { forecast } from "../test/pathExample";
import { flows } from "./flows";
import { meet, runsInto, walked } from "./labels";
import { outline, type Band, type Box } from "./layout";
import { strip } from "./strip";

const NAMES = ["Front", "Rear AGM", "Alternator", "A lithium battery with quite a long name of its own", "x"];
const name = fc.constantFrom(...NAMES);
const watts = fc.oneof(fc.integer({ min: -900, max: 900 }), fc.constant(0));

/** A job's forecast: places in a tree of cables, up to sixteen amplifiers on some of them, sources anywhere. */
const job = fc
  .record({
    places: fc.array(fc.record({ name, hangsOn: fc.nat(), w: watts }), { minLength: 1, maxLength: 8 }),
    amplifiers: fc.array(fc.record({ name, on: fc.nat(), w: fc.integer({ min: 1, max: 3000 }) }), {
      maxLength: 16,
    }),
    sources: fc.array(fc.record({ name, on: fc.nat(), w: watts }), { minLength: 1, maxLength: 5 }),
    car: fc.integer({ min: 0, max: 500 }),
  })
  .map(({ places, amplifiers, sources, car }): Forecast => {
    const ids = ["front", ...places.map((_, i) => `place ${i}`)];
    const at = (n: number, upTo = ids.length) => ids[n % upTo] ?? "front";
    const ends = [
      ...places.map((each, i) => ({
        name: `${each.name} run ${i}`,
        start: at(each.hangsOn, i + 1),
        end: `place ${i}`,
        w: each.w,
      })),
      ...amplifiers.map((each, i) => ({
        name: `Lead ${i}`,
        start: at(each.on),
        end: `amp:${i}`,
        w: 2 * each.w,
      })),
    ];
    const path = {
      nodes: [
        ...ids.map((id, i) => ({ name: id, words: NAMES[i % NAMES.length] ?? id, volts: 12.345 })),
        ...amplifiers.map((each, i) => ({ name: `amp:${i}`, words: each.name, volts: 11.9 })),
      ],
      sources: sources.map((each, i) => ({
        name: each.name,
        field: `banks.${i}`,
        kind: "bank",
        node: at(each.on),
        amps: each.w / 13,
        watts: each.w,
        at_limit: each.w > 500,
      })),
      edges: ends.map(({ w, ...edge }) => ({
        ...edge,
        amps: w / 13,
        drop_v: 0.4,
        heat_w: Math.abs(w) / 40,
        watts_out: Math.abs(w),
      })),
      vehicle_a: car / 13,
      vehicle_w: car,
    };
    const drawn = amplifiers.map((each, i) => ({
      ...forecast.amplifiers[0],
      id: `a${i}`,
      name: each.name,
      node: `amp:${i}`,
      delivered_w: each.w,
      delivered_mean_w: each.w,
      low_w: 0.9 * each.w,
      high_w: 1.1 * each.w,
      heat_w: each.w,
    }));
    return { ...forecast, path, amplifiers: drawn } as unknown as Forecast;
  });

describe("the words of the path strip", () => {
  it("never meet each other, a band or a joint, and never leave the strip, at any width and number of parts", () => {
    fc.assert(
      fc.property(job, fc.integer({ min: 320, max: 2600 }), (made, room) => {
        const { joints, bands, labels, width, height } = strip(made, room);
        const curves = bands.map(walk);
        expect(labels.map(({ id }) => id).sort()).toEqual(joints.map(({ id }) => id).sort());
        labels.forEach((label, i) => {
          expect(label.x).toBeGreaterThanOrEqual(0);
          expect(label.y).toBeGreaterThanOrEqual(0);
          expect(label.x + label.width).toBeLessThanOrEqual(width);
          expect(label.y + label.height).toBeLessThanOrEqual(height);
          expect(labels.slice(i + 1).some((other) => meet(label, other))).toBe(false);
          expect(joints.some((joint) => meet(label, joint))).toBe(false);
          expect(curves.some((band) => crosses(band, label))).toBe(false);
        });
        for (const { id, leader, ...box } of labels) {
          const joint = joints.find((each) => each.id === id);
          if (!leader || !joint) continue;
          expect(leader.x0).toBe(joint.x + joint.width / 2);
          expect(leader.y0).toBeGreaterThanOrEqual(joint.y);
          expect(leader.y0).toBeLessThanOrEqual(joint.y + joint.height);
          expect(leader.x1).toBeGreaterThanOrEqual(box.x);
          expect(leader.x1).toBeLessThanOrEqual(box.x + box.width);
        }
        // However many joints there are, a part of the drawing is left for the bands.
        const thick = bands.reduce((sum, { thickness }) => sum + thickness, 0);
        if (bands.length > 0) expect(thick).toBeGreaterThan(14);
      }),
      { numRuns: 60 },
    );
  }, 60_000);

  it("keep to the height that is known before the forecast, in any usual job", () => {
    for (const room of [640, 744, 1180]) expect(strip(forecast, room).height).toBe(226);
  });

  it("tell every joint that is drawn", () => {
    const { nodes } = flows(forecast);
    const { labels } = strip(forecast, 1180);
    expect(labels.filter(({ name }) => nodes.some(({ label }) => label === name)).length).toBe(nodes.length);
  });

  it("stand at their own joint in a usual job, without a line to it", () => {
    const { joints, labels } = strip(forecast, 1180);
    for (const { id, leader, x, y, width, height } of labels) {
      const joint = joints.find((each) => each.id === id);
      if (!joint) throw new Error(id);
      expect(leader).toBeNull();
      expect(Math.max(joint.x - x - width, x - joint.x - joint.width)).toBeLessThan(10);
      expect(Math.max(joint.y - y - height, y - joint.y - joint.height)).toBeLessThan(10);
    }
  });

  it("know where a band runs", () => {
    const band = { x0: 0, y0: 10, x1: 100, y1: 90, thickness: 8 } as Band;
    const at = (x: number, y: number) => ({ x, y, width: 10, height: 10 });
    expect(
      [at(0, 0), at(45, 45), at(90, 0), at(0, 80), at(101, 85)].map((box) => runsInto(walked(band), box)),
    ).toEqual([true, true, false, false, false]);
  });
});

/** A band by another way: its outline's own curve, in small steps of x and the y of its upper edge. */
function walk(band: Band): { thickness: number; steps: [number, number][] } {
  const [x0 = 0, top0 = 0, , , , , x1 = 0, top1 = 0] = outline(band)
    .split(/[ ,MCLZ]+/)
    .filter(Boolean)
    .map(Number);
  const steps = Array.from({ length: 201 }, (_, k): [number, number] => {
    const t = k / 200;
    const [a, b] = [(1 - t) ** 3 + 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t ** 2 + t ** 3];
    const x = (1 - t) ** 3 * x0 + 3 * (1 - t) * t * ((x0 + x1) / 2) + t ** 3 * x1;
    return [x, a * top0 + b * top1];
  });
  return { thickness: band.thickness, steps };
}

function crosses({ thickness, steps }: ReturnType<typeof walk>, box: Box): boolean {
  const [right, bottom] = [box.x + box.width, box.y + box.height];
  // What touches, to rounding, does not cross.
  const [above, below] = [box.y + 1e-6, bottom - 1e-6];
  return steps.some(([x, top]) => x > box.x && x < right && top < below && top + thickness > above);
}
