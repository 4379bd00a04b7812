// @vitest-environment jsdom
import { asked, serve } from "../../test/server";
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import { openPage } from "../../test/page";
import type { Waiting } from "./log";
import { useLog } from "./useLog";

vi.mock("idb-keyval", () => import("../../test/keyval"));
afterEach(cleanup);

const waiting = (key: string) => ({ key, asked: {}, value: "14.2", replaces: null, refused: "" }) as Waiting;

function Readings() {
  const { log, act, rows } = useLog(7);
  const take = () => {
    for (const key of ["one", "two", "three"]) act({ did: "take", waiting: waiting(key), place: null });
  };
  return <button onClick={take}>{`${rows.length} stored, ${log.waiting.length} on the way`}</button>;
}

it("sends one reading after the other, each as soon as the one before has arrived", async () => {
  let stored = 0;
  serve({
    "GET /api/v1/jobs/7/readings": () => ({ items: [] }),
    "POST /api/v1/jobs/7/readings": () => ({ id: (stored += 1), replaces: null }),
  });
  openPage(<Readings />);
  await userEvent.click(await screen.findByText("0 stored, 0 on the way"));
  await screen.findByText("3 stored, 0 on the way");
  const sent = asked.filter(([route]) => route.startsWith("POST")).map(([, body]) => body);
  expect(sent).toMatchObject([{ key: "one" }, { key: "two" }, { key: "three" }]);
});
