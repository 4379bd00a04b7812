// @vitest-environment jsdom
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";

/** A server that puts a cable in, slowly, and notes of which title it did. */
const asked = vi.hoisted(() => {
  const titles: string[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const { setup } = await request.json();
    titles.push(setup.title);
    await new Promise((done) => setTimeout(done, 50));
    return new Response(JSON.stringify({ ...setup, cables: [{ name: "Charging cable" }] }), {
      headers: { "Content-Type": "application/json" },
    });
  });
  return titles;
});

const { useWork } = await import("../../job/WorkContext");
const { openJob } = await import("../../test/work");
const { useLayout } = await import("./useCable");

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
    const { setup, changes } = openJob({ title: "before", cables: [] }, <Buttons />);
    await userEvent.click(screen.getByRole("button", { name: "put in" }));
    await userEvent.click(screen.getByRole("button", { name: "type" }));
    await waitFor(() => expect(setup().cables).toHaveLength(1));
    expect(setup().title).toBe("typed meanwhile");
    expect(asked).toEqual(["before", "typed meanwhile"]);
    expect(changes.map(([path]) => path)).toEqual(["title", ""]);
  });
});
