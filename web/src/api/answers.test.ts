import { QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";

import { Answers } from "./answers";

it("shows no answer of before a change, though it was the first and on its way when the change was made", async () => {
  const client = new Answers({ defaultOptions: { queries: { retry: false } } });
  const asked: ((answer: string) => void)[] = [];
  const list = new QueryObserver(client, {
    queryKey: ["jobs", "all"],
    queryFn: () => new Promise<string>((resolve) => asked.push(resolve)),
  });
  const leave = list.subscribe(() => {});
  void client.invalidateQueries({ queryKey: ["parts"] });
  expect(asked).toHaveLength(1);
  const changed = client.invalidateQueries({ queryKey: ["jobs"] });
  expect(asked).toHaveLength(2);
  asked[0]?.("without the change");
  asked[1]?.("with it");
  await changed;
  expect(list.getCurrentResult()).toMatchObject({ data: "with it", isError: false });
  leave();
});
