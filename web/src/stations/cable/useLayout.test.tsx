// @vitest-environment jsdom
import { asked, serve } from "../../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import { useWork } from "../../job/WorkContext";
import { openJob } from "../../test/work";
import { useLayout } from "./useCable";

function Buttons() {
  const { change } = useWork();
  const { make } = useLayout();
  return (
    <>
      <button onClick={() => make.mutate("charging")}>put in</button>
      <button onClick={() => change("title", "typed meanwhile")}>type</button>
    </>
  );
}

afterEach(cleanup);

describe("a change of the tree", () => {
  it("is made of the job as it stands when the answer comes, so that nothing typed meanwhile is lost", async () => {
    let goOn = () => {};
    const typed = new Promise<void>((done) => (goOn = done));
    serve({
      "POST /api/v1/cable-edits": () => ({ offers: [] }),
      "POST /api/v1/cable-edits/made": async ({ document: job }: { document: { title: string } }) => {
        if (job.title === "before") await typed; // the first answer comes only when something was typed meanwhile
        return { ...job, cables: [{ name: "Charging cable" }] };
      },
    });
    const { job, changes } = openJob({ title: "before", cables: [] }, <Buttons />);
    await userEvent.click(screen.getByRole("button", { name: "put in" }));
    await userEvent.click(screen.getByRole("button", { name: "type" }));
    goOn();
    await waitFor(() => expect(job().cables).toHaveLength(1));
    expect(job().title).toBe("typed meanwhile");
    const made = asked.filter(([route]) => route.endsWith("/made"));
    expect(made.map(([, body]) => (body as { document: { title: string } }).document.title)).toEqual([
      "before",
      "typed meanwhile",
    ]);
    expect(changes.map(([path]) => path)).toEqual(["title", ""]);
  });
});
