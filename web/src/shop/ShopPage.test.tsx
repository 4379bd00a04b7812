// @vitest-environment jsdom
import { asked, Refusal, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import type { WorkshopSettings } from "../api/client";
import { openPage } from "../test/page";
import { ShopPage } from "./ShopPage";
import { USUAL } from "./useShop";

afterEach(cleanup);

const SHELF = [{ size: "4 AWG", conductor: "copper", price_per_m: 6 }];
const STORED = { ...USUAL, shelf: SHELF };
const slowly = (answer: unknown) => new Promise((done) => setTimeout(() => done(answer), 60));
const NO_MOVES = { "POST /api/v1/workshop-settings/moves": () => ({ count: 0, jobs: [] }) };
const stored = { version: 1, settings: STORED };
interface Saved {
  version: number;
  settings: WorkshopSettings;
}
const accepted = (body: Saved) => ({ ...body, version: body.version + 1 });
const saves = () =>
  asked
    .filter(([route]) => route === "PUT /api/v1/workshop-settings")
    .map(([, body]) => (body as Saved).settings);

describe("the workshop's settings", () => {
  it("can be changed only once they are there, so that a shelf is never saved without what is on it", async () => {
    serve({
      ...NO_MOVES,
      "GET /api/v1/workshop-settings": () => slowly(stored),
      "PUT /api/v1/workshop-settings": accepted,
    });
    openPage(<ShopPage />);
    expect(screen.getByText("Opening the shop …")).toBeTruthy();
    expect(screen.queryByRole("radio")).toBeNull();
    await userEvent.click(await screen.findByRole("radio", { name: "feet" }));
    expect(screen.getByText("not saved yet")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await screen.findByText("✓ saved");
    expect(saves()).toEqual([{ ...STORED, lengths: "ft" }]);
  });

  it("keep what is changed while the save before is under way", async () => {
    serve({
      ...NO_MOVES,
      "GET /api/v1/workshop-settings": () => stored,
      "PUT /api/v1/workshop-settings": (body: Saved) => slowly(accepted(body)),
    });
    openPage(<ShopPage />);
    await userEvent.click(await screen.findByRole("radio", { name: "feet" }));
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await userEvent.click(screen.getByRole("radio", { name: "mm²" }));
    await waitFor(() => expect(saves()).toHaveLength(1));
    await new Promise((done) => setTimeout(done, 100));
    expect(screen.getByText("not saved yet")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(saves()).toHaveLength(2));
    expect(asked.at(-1)?.[1]).toMatchObject({ version: 2 });
    expect(saves()[1]).toMatchObject({ sizes: "mm2", lengths: "ft", shelf: SHELF });
  });

  it("that are refused stay as they were typed, with the field and what is allowed", async () => {
    serve({
      ...NO_MOVES,
      "GET /api/v1/workshop-settings": () => stored,
      "PUT /api/v1/workshop-settings": () =>
        new Refusal("shelf.0.size: 'O' is not a conductor size", "shelf.0.size"),
    });
    openPage(<ShopPage />);
    const size = await screen.findByLabelText("Size of cable 1");
    await userEvent.clear(size);
    await userEvent.type(size, "O");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toContain(
      "shelf.0.size: 'O' is not a conductor size",
    );
    expect((screen.getByLabelText("Size of cable 1") as HTMLInputElement).value).toBe("O");
    expect(screen.getByText("not saved yet")).toBeTruthy();
  });
});

describe("a change of what jobs follow", () => {
  const standing = { terminal_v: 12.43, delivered_w: 393.2, flags: ["below 12.5 V"] };
  const moved = {
    count: 2,
    jobs: [
      {
        id: 7,
        title: "Estate car",
        version: 1,
        before: standing,
        after: { ...standing, flags: ["below 13 V"] },
      },
      { id: 9, title: "Van", version: 4, before: standing, after: standing },
    ],
  };

  it("names the jobs, what their flags become, and moves those that are ticked with the save", async () => {
    serve({
      "GET /api/v1/workshop-settings": () => ({ ...stored, settings: { ...STORED, terminal_v: 12.5 } }),
      "POST /api/v1/workshop-settings/moves": () => moved,
      "PUT /api/v1/workshop-settings": accepted,
    });
    openPage(<ShopPage />);
    await userEvent.type(await screen.findByLabelText("Hold at the amplifier, V"), "{Backspace}9");
    expect(await screen.findByText("2 open jobs follow the shop in this")).toBeTruthy();
    expect(screen.getByText("＋ below 13 V")).toBeTruthy();
    expect(screen.getByText("− below 12.5 V")).toBeTruthy();
    await userEvent.click(screen.getByLabelText("Van"));
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await screen.findByText("✓ saved");
    expect(asked.at(-1)?.[1]).toMatchObject({ move: [9], settings: { terminal_v: 12.9 } });
  });
});
