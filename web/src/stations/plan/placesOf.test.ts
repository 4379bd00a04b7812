import { describe, expect, it } from "vitest";

import type { Job } from "../../api/client";
import { placesOf } from "./placesOf";

describe("the places that a plan can keep", () => {
  it("are named as the plan names them, each once", () => {
    const job = {
      chargers: [{ name: "Alternator" }],
      banks: [{ name: "Front battery" }, { name: "Front battery" }],
      capacitors: [],
      cables: [{ name: "Main run" }],
      amplifiers: [
        { name: "Mono", lead: { size: "4 AWG" } },
        { name: "Front", lead: null },
      ],
    } as unknown as Job;
    const places = placesOf(job);
    for (const name of [
      "Lead to Mono",
      "Ground return of Main run",
      "Box of Front",
      "Gain",
      "Second battery",
    ])
      expect(places).toContain(name);
    expect(places).not.toContain("Lead to Front");
    expect(places.filter((each) => each === "Front battery")).toHaveLength(1);
  });
});
