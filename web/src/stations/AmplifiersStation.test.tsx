// @vitest-environment jsdom
import { asked, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { openJob } from "../test/work";
import { AmplifiersStation } from "./AmplifiersStation";

afterEach(cleanup);
beforeEach(() =>
  serve({
    "GET /api/v1/amplifiers": () => ({ items: [{ id: 5, name: "Marram" }], count: 1 }),
    "GET /api/v1/amplifiers/5/job-amplifier": () => ({
      name: "Marram",
      class: "D",
      lead: {},
      load: {},
      runs: [{ load_ohm: 2 }],
      claims: [],
      came_from: "the bench",
    }),
  }),
);
const present = (...ids: string[]) => ids.map((id) => ({ id, name: id, load: {} }));

async function add(job: object) {
  const work = openJob({ vehicle: {}, basis: {}, ...job }, <AmplifiersStation />);
  await screen.findByRole("option", { name: "Marram" });
  await userEvent.selectOptions(screen.getByLabelText("Amplifier"), "5");
  await userEvent.click(screen.getByRole("button", { name: "Add to this job" }));
  await waitFor(() => expect(work.changes.length).toBe(1));
  return work.job().amplifiers ?? [];
}

describe("an amplifier from the bench", () => {
  it("gets an id that no other amplifier of the job has, also where one in between was taken away", async () => {
    const ids = (await add({ amplifiers: present("a1", "a3"), cables: [] })).map((each) => each.id);
    expect(ids).toEqual(["a1", "a3", "a4"]);
  });

  it("comes with its readings and stands at the rear where a cable goes there", async () => {
    const [added] = await add({ amplifiers: [], cables: [{ name: "Run", to: "rear" }] });
    expect(added).toMatchObject({ id: "a1", at: "rear", runs: [{ load_ohm: 2 }], came_from: "the bench" });
    cleanup();
    expect((await add({ amplifiers: [], cables: [] }))[0]?.at).toBe("front");
    expect(asked.filter(([route]) => route.endsWith("/job-amplifier")).length).toBe(2);
  });
});
