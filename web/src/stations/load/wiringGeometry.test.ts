import { describe, expect, it } from "vitest";

import { coilPath, drawWiring, type WiringPicture } from "./wiringGeometry";

const WAYS = [
  { coils: "single", in_series: 1, strings: 1 },
  { coils: "single", in_series: 2, strings: 2 },
  { coils: "parallel", in_series: 1, strings: 2 },
  { coils: "series", in_series: 2, strings: 1 },
  { coils: "series", in_series: 2, strings: 3 },
] as const;

/** Ohms between plus and minus of a picture, its coils 1 ohm each: nodes are wire ends that touch. */
function solved(picture: WiringPicture): number {
  const nodes: [number, number][] = [];
  const spans: [number, number][] = [];
  const nodeAt = ([x, y]: [number, number]) => {
    const found = nodes.findIndex(([a, b]) => Math.abs(a - x) < 0.01 && Math.abs(b - y) < 0.01);
    return found >= 0 ? found : nodes.push([x, y]) - 1;
  };
  for (const { points } of picture.wires) {
    for (let i = 1; i < points.length; i += 1) {
      spans.push([nodeAt(points[i - 1] as [number, number]), nodeAt(points[i] as [number, number])]);
    }
  }
  const coils = picture.coils.map(({ top, bottom }) => [nodeAt(top), nodeAt(bottom)] as const);
  // A wire end that lies on another wire is joined to it.
  const group = nodes.map((_, i) => i);
  const root = (i: number): number => (group[i] === i ? i : root(group[i] as number));
  const join = (a: number, b: number) => (group[root(a)] = root(b));
  spans.forEach(([a, b]) => join(a, b));
  nodes.forEach(([x, y], n) =>
    spans.forEach(([a, b]) => {
      const [p, q] = [nodes[a], nodes[b]] as [[number, number], [number, number]];
      const onIt =
        x >= Math.min(p[0], q[0]) - 0.01 &&
        x <= Math.max(p[0], q[0]) + 0.01 &&
        y >= Math.min(p[1], q[1]) - 0.01 &&
        y <= Math.max(p[1], q[1]) + 0.01;
      const end = picture.wires.some(({ points }) =>
        [points[0], points.at(-1)].some((e) => e && Math.abs(e[0] - x) < 0.01 && Math.abs(e[1] - y) < 0.01),
      );
      if (onIt && end) join(n, a);
    }),
  );
  const names = [...new Set(nodes.map((_, i) => root(i)))];
  const [plus, minus] = [root(nodeAt(picture.plus)), root(nodeAt(picture.minus))];
  // Relax the volts of every node between 1 V at plus and 0 V at minus, then ohms are volts over amps.
  const volts = new Map(names.map((name) => [name, name === plus ? 1 : 0]));
  for (let round = 0; round < 4000; round += 1) {
    for (const name of names) {
      if (name === plus || name === minus) continue;
      const near = coils.flatMap(([a, b]) =>
        root(a) === name ? [root(b)] : root(b) === name ? [root(a)] : [],
      );
      if (near.length > 0)
        volts.set(name, near.reduce((sum, each) => sum + (volts.get(each) ?? 0), 0) / near.length);
    }
  }
  const amps = coils.reduce((sum, [a, b]) => {
    const across = (volts.get(root(a)) ?? 0) - (volts.get(root(b)) ?? 0);
    return root(a) === plus ? sum + across : root(b) === plus ? sum - across : sum;
  }, 0);
  return 1 / amps;
}

describe("the picture of a wiring", () => {
  it("is the circuit that its name says: the same ohms between plus and minus", () => {
    for (const way of WAYS) {
      const driver = { single: 1, series: 2, parallel: 0.5 }[way.coils];
      expect(solved(drawWiring(way))).toBeCloseTo((driver * way.in_series) / way.strings, 3);
    }
  });

  it("draws every driver once with all its coils inside it, and numbers the leads in order", () => {
    for (const way of WAYS) {
      const picture = drawWiring(way);
      expect(picture.drivers).toHaveLength(way.in_series * way.strings);
      expect(picture.coils).toHaveLength(way.in_series * way.strings * (way.coils === "single" ? 1 : 2));
      for (const { top, bottom } of picture.coils) {
        const home = picture.drivers.find(
          (d) => top[0] > d.x && top[0] < d.x + d.width && top[1] > d.y && bottom[1] < d.y + d.height,
        );
        expect(home).toBeDefined();
      }
      expect(picture.leads.map((lead) => lead.number)).toEqual(
        Array.from({ length: way.strings * (way.in_series + 1) }, (_, i) => i + 1),
      );
    }
  });

  it("marks a joint where strings meet the rails, and none where there is one string", () => {
    const count = (strings: number, coils: "single" | "parallel" = "single") =>
      drawWiring({ coils, in_series: 1, strings }).joints.length;
    expect([count(1), count(2), count(3)]).toEqual([0, 4, 6]);
    expect([count(1, "parallel"), count(2, "parallel")]).toEqual([2, 8]);
    for (const [x, y] of drawWiring({ coils: "parallel", in_series: 2, strings: 2 }).joints)
      expect(
        drawWiring({ coils: "parallel", in_series: 2, strings: 2 }).wires.filter(({ points }) =>
          points.some(([a, b]) => a === x && b === y),
        ).length,
      ).toBeGreaterThan(0);
  });

  it("takes the amplifier's terminals from its wires, plus above minus, and runs square", () => {
    for (const way of WAYS) {
      const { wires, plus, minus } = drawWiring(way);
      const first = (from: string) => wires.find((wire) => wire.from === from)?.points[0];
      expect([first("plus"), first("minus")]).toEqual([plus, minus]);
      expect(plus[1]).toBeLessThan(minus[1]);
      for (const { points } of wires)
        for (const [i, [x, y]] of points.slice(1).entries()) {
          const [a, b] = points[i] ?? [NaN, NaN];
          expect(a === x || b === y).toBe(true);
        }
      expect(new Set(wires.map((wire) => wire.from))).toEqual(new Set(["plus", "minus", "link"]));
    }
  });

  it("keeps everything inside its frame", () => {
    for (const way of WAYS) {
      const { width, height, wires, drivers } = drawWiring(way);
      for (const [x, y] of wires.flatMap((wire) => wire.points)) {
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThanOrEqual(width);
        expect(y).toBeGreaterThanOrEqual(0);
        expect(y).toBeLessThanOrEqual(height);
      }
      for (const d of drivers) expect(d.x + d.width).toBeLessThanOrEqual(width);
    }
  });

  it("draws a coil as loops that end where the coil ends", () => {
    expect(coilPath({ top: [10, 20], bottom: [10, 60] })).toBe(
      "M 10 20 a 8 5 0 0 1 0 10 a 8 5 0 0 1 0 10 a 8 5 0 0 1 0 10 a 8 5 0 0 1 0 10",
    );
  });
});
