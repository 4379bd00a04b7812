// @vitest-environment jsdom
import { serve } from "../test/server";
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it } from "vitest";

import { openJob } from "../test/work";
import { useWorkedOut } from "./useWorkedOut";
import { useWork } from "./WorkContext";

afterEach(cleanup);

function Offers() {
  const { change } = useWork();
  const { data } = useWorkedOut("cable-edits");
  return <button onClick={() => change("vehicle", {})}>{data?.offers.map((each) => each.key).join()}</button>;
}

it("stays in view while nobody answers for what was changed, and is asked again by itself", async () => {
  let times = 0;
  serve({
    "POST /api/v1/cable-edits": () => {
      times += 1;
      if (times === 2) throw new TypeError("network");
      return { offers: [{ key: `answer ${times}` }] };
    },
  });
  openJob({}, <Offers />);
  await userEvent.click(await screen.findByText("answer 1"));
  await expect.poll(() => times).toBe(2);
  expect(screen.getByText("answer 1")).toBeTruthy();
  expect(await screen.findByText("answer 3", {}, { timeout: 3000 })).toBeTruthy();
});
