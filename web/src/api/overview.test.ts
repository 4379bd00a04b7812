// @vitest-environment jsdom
import { asked, overviews, Refusal, serve } from "../test/server";
import { expect, it, vi } from "vitest";

import type { Job } from "./client";
import { ask } from "./overview";

/** Of somebody who waits for the answer. */
const stays = () => new AbortController().signal;
const routes = () => asked.map(([route]) => route.replace("POST /api/v1/", ""));

it("asks in one request what is asked in one moment, the forecast first, and gives each its own answer", async () => {
  const before = overviews.count;
  let goOn = () => {};
  serve({
    "POST /api/v1/forecasts": () => "first",
    "POST /api/v1/cable-options/3": ({ sizes }: { sizes: object }) => sizes,
    "POST /api/v1/supply-reports": () => new Promise((done) => (goOn = () => done("last"))),
  });
  const job = {} as Job;
  const sizes = ask(job, "cable-options/{index}", stays(), 3, { sizes: { runs: 2 } });
  const report = ask(job, "supply-reports", stays());
  const forecast = ask(job, "forecasts", stays());
  expect(await forecast).toBe("first");
  expect(await sizes).toEqual({ runs: 2 });
  await Promise.resolve().then(() => goOn());
  expect(await report).toBe("last");
  expect(overviews.count).toBe(before + 1);
  expect(routes()).toEqual(["forecasts", "cable-options/3", "supply-reports"]);
  const other = ask({} as Job, "forecasts", stays());
  expect(await other).toBe("first");
  expect(overviews.count).toBe(before + 2);
});

it("refuses one thing for its own reason, and leaves what stood beside a refused forecast as it was", async () => {
  serve({
    "POST /api/v1/forecasts": () => new Refusal("nothing supplies it", "banks"),
    "POST /api/v1/supply-reports": () => new Refusal("no battery", "banks.0"),
    "POST /api/v1/programme-strips": () => "strips",
  });
  const job = {} as Job;
  const report = ask(job, "supply-reports", stays());
  const strips = ask(job, "programme-strips", stays());
  await expect(report).rejects.toMatchObject({ message: "no battery", field: "banks.0", status: 422 });
  expect(await strips).toBe("strips");
  const settled = vi.fn();
  const beside = ask(job, "programme-strips", stays());
  void beside.then(settled, settled);
  await expect(ask(job, "forecasts", stays())).rejects.toMatchObject({ message: "nothing supplies it" });
  await new Promise((done) => setTimeout(done, 20));
  expect(settled).not.toHaveBeenCalled();
});

it("gives up only when nobody waits any more, and fails all that an answer which breaks off leaves open", async () => {
  const signals: AbortSignal[] = [];
  serve({
    "POST /api/v1/forecasts": (_: never, { signal }: Request) => {
      signals.push(signal);
      return new Promise(() => undefined);
    },
  });
  const [first, second] = [new AbortController(), new AbortController()];
  const job = {} as Job;
  void ask(job, "forecasts", first.signal);
  void ask(job, "supply-reports", second.signal);
  await vi.waitFor(() => expect(signals).toHaveLength(1));
  first.abort();
  expect(signals[0]?.aborted).toBe(false);
  second.abort();
  expect(signals[0]?.aborted).toBe(true);
  serve({
    "POST /api/v1/forecasts": () => 1,
    "POST /api/v1/supply-reports": () => {
      throw new TypeError("network");
    },
  });
  const whole = ask(job, "forecasts", stays());
  const cut = [ask(job, "supply-reports", stays()), ask(job, "programme-strips", stays())];
  expect(await whole).toBe(1);
  for (const each of cut) await expect(each).rejects.toBeInstanceOf(TypeError);
});
