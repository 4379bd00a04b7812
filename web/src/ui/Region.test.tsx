// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import { Region } from "./Region";

afterEach(cleanup);

it("fails alone, says that what was typed is kept, and opens again", async () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  let broken = true;
  function Part() {
    if (broken) throw new Error("no");
    return <p>drawn</p>;
  }
  render(
    <>
      <p>the rest</p>
      <Region name="The path">
        <Part />
      </Region>
    </>,
  );
  expect(screen.getByText("the rest")).toBeTruthy();
  expect(screen.getByRole("alert").textContent).toContain(
    "The path cannot be shown. Everything that was typed is kept.",
  );
  broken = false;
  await userEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(screen.getByText("drawn")).toBeTruthy();
});
