// @vitest-environment jsdom
import { describe, expect, it } from "vitest";

import { Problem, type Asked } from "../../api/client";
import {
  after,
  EMPTY_LOG,
  keptTogether,
  nextToSend,
  placeOf,
  refusalOf,
  retryMs,
  type Log,
  type Waiting,
} from "./log";
import { newKey } from "./newKey";
import { asTyped, taken } from "./taken";

const VOLTS: Asked = {
  what: "volts",
  from: "a1",
  to: "",
  amplifier: "",
  engine: "idle",
  programme: "tone",
  load: "drivers",
  hold: "mean",
};
const waiting = (key: string, value = "12.3"): Waiting => ({ ...taken(EMPTY_LOG, VOLTS, value, null), key });

describe("the log of readings", () => {
  it("takes what was typed at a place, and sends the oldest first", () => {
    let log = after(EMPTY_LOG, { did: "type", place: "here", text: "12,3" });
    log = after(log, { did: "type", place: "there", text: "4" });
    log = after(log, { did: "take", place: "here", waiting: waiting("one") });
    log = after(log, { did: "take", place: null, waiting: waiting("two") });
    expect(log.typed).toEqual({ there: "4" });
    expect(nextToSend(log)?.key).toBe("one");
    log = after(log, { did: "stored", key: "one" });
    expect(nextToSend(log)?.key).toBe("two");
    expect(nextToSend(after(log, { did: "stored", key: "two" }))).toBeNull();
  });

  it("lets a refused reading hold nothing else up, and sends it again once it is another", () => {
    let log: Log = { ...EMPTY_LOG, waiting: [waiting("one", "12 A"), waiting("two")] };
    log = after(log, { did: "refused", key: "one", why: "not in V" });
    expect(nextToSend(log)?.key).toBe("two");
    log = after(log, { did: "again", key: "one", value: "12" });
    expect(nextToSend(log)).toMatchObject({ key: "one", value: "12", refused: "" });
  });

  it("loses nothing in any order of typing, taking, refusals and answers, but what was dropped", () => {
    let state = 7;
    const random = (most: number) => (state = (state * 48271) % 2147483647) % most;
    for (let round = 0; round < 200; round++) {
      let log = EMPTY_LOG;
      const [took, done] = [new Set<string>(), new Set<string>()];
      for (let step = 0; step < 30; step++) {
        const next = nextToSend(log);
        const refused = log.waiting.find((one) => one.refused !== "");
        const act = random(5);
        if (act === 0 || next === null) {
          took.add(`${round}.${step}`);
          log = after(log, { did: "take", place: "p", waiting: waiting(`${round}.${step}`) });
        } else if (act === 1) log = after(log, { did: "refused", key: next.key, why: "no" });
        else if (act === 2 && refused) log = after(log, { did: "again", key: refused.key, value: "1" });
        else if (act === 3) log = after(log, { did: "type", place: "q", text: String(step) });
        else {
          done.add(next.key);
          log = after(log, { did: "stored", key: next.key });
        }
      }
      expect(new Set([...done, ...log.waiting.map((one) => one.key)])).toEqual(took);
    }
  });

  it("is kept with what another page of the job has waiting, without what this one saw stored or dropped", () => {
    const mine: Log = { ...EMPTY_LOG, waiting: [waiting("mine")] };
    const found: Log = { ...EMPTY_LOG, waiting: [waiting("theirs"), waiting("mine"), waiting("sent")] };
    const kept = keptTogether(found, mine, new Set(["sent"]));
    expect(kept.waiting.map((one) => one.key)).toEqual(["theirs", "mine"]);
    expect(keptTogether(null, mine, new Set())).toEqual(mine);
  });

  it("tries again after 1, 2, 4 seconds and so on, up to half a minute", () => {
    expect([0, 1, 2, 3, 4, 5, 9].map(retryMs)).toEqual([1000, 2000, 4000, 8000, 16000, 30000, 30000]);
  });

  it("tells a refusal, which wants another value, from a server that is not there", () => {
    expect(refusalOf(new Problem(422, "Value: not in V", "value", null, "not in V"))).toBe("not in V");
    expect(refusalOf(new Problem(503, "busy", "", null))).toBeNull();
    expect(refusalOf(new Problem(401, "log in", "", null))).toBeNull();
    expect(refusalOf(new TypeError("network"))).toBeNull();
  });

  it("knows two readings of one place by what they are, not by their tone or time", () => {
    expect(placeOf({ ...VOLTS, tone_hz: 40, since_s: 60 })).toBe(placeOf(VOLTS));
    expect(placeOf({ ...VOLTS, hold: "min" })).not.toBe(placeOf(VOLTS));
    expect(placeOf({ ...VOLTS, engine: "off" })).not.toBe(placeOf(VOLTS));
  });
});

describe("a reading that is taken", () => {
  const log: Log = { ...EMPTY_LOG, by: " Ines ", volts: "Multimeter", clamp: "Clamp", clampRange: "400" };

  it("carries its meter, its range and who read it", () => {
    expect(taken(log, VOLTS, " 12,3 ", 20)).toMatchObject({
      value: "12,3",
      by: "Ines",
      meter: "Multimeter",
      meter_range: 20,
    });
    expect(taken(log, { ...VOLTS, what: "amps" }, "41", 100)).toMatchObject({
      meter: "Clamp",
      meter_range: 400,
    });
    expect(taken({ ...log, clampRange: "" }, { ...VOLTS, what: "amps" }, "41", 100).meter_range).toBeNull();
  });

  it("on a range of millivolts is what that meter shows, unless its unit was typed too", () => {
    expect([
      asTyped("132", "mV"),
      asTyped(" 12,5 ", "mV"),
      asTyped("0.3V", "mV"),
      asTyped("12,5", "V"),
    ]).toEqual(["132m", "12.5m", "0.3V", "12,5"]);
  });

  it("has a key of its own that the server takes for a UUID", () => {
    const keys = new Set(Array.from({ length: 50 }, newKey));
    expect(keys.size).toBe(50);
    for (const key of keys)
      expect(key).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });
});
