// @vitest-environment jsdom
import { asked, Refusal, serve } from "../test/server";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";

import { openPage } from "../test/page";
import { ImportSheet } from "./ImportSheet";

afterEach(cleanup);

const file = new File(["load_ohm,criterion,power_w"], "sheet.csv", { type: "text/csv" });
const address = () => screen.getByRole("status", { name: "address" }).textContent;

describe("a bench sheet that is brought in", () => {
  it("is asked for its amplifier where it names none, and is never called by its file's name", async () => {
    serve({
      "POST /api/v1/amplifiers/import": ({ name }: { name: string }) =>
        name === "" ? new Refusal("sheet.csv: Amplifier: names no amplifier", "amplifier") : { id: 8 },
    });
    openPage(<ImportSheet />);
    await userEvent.upload(screen.getByLabelText("Import a bench sheet", { selector: "input" }), file);
    const dialog = await screen.findByRole("dialog", { name: "Which amplifier is it?" });
    expect(dialog.textContent).toContain("sheet.csv does not say");
    await userEvent.type(screen.getByLabelText("Its name"), " Grebe 5 ");
    await userEvent.click(screen.getByRole("button", { name: "Import it" }));
    await waitFor(() => expect(address()).toBe("/bench/8/curves"));
    expect(asked.map(([, body]) => (body as { name: string }).name)).toEqual(["", "Grebe 5"]);
  });

  it("says what else is wrong with it, where it was brought in", async () => {
    serve({
      "POST /api/v1/amplifiers/import": () =>
        new Refusal("sheet.csv: line 4: Load: 0 is not allowed", "load_ohm"),
    });
    openPage(<ImportSheet />);
    await userEvent.upload(screen.getByLabelText("Import a bench sheet", { selector: "input" }), file);
    expect((await screen.findByRole("alert")).textContent).toContain("line 4: Load");
    expect(screen.queryByRole("dialog")).toBeNull();
  });
});
