import { expect, it } from "vitest";

import { nearestIndex } from "./nearestIndex";

it("is nearest by ratio, as a log axis shows it, whichever way the values run", () => {
  expect(nearestIndex([1, 10, 100], 30)).toBe(1); // 30 is 3.0 times 10, 100 is 3.3 times 30
  expect(nearestIndex([1, 10, 100], 33)).toBe(2);
  expect(nearestIndex([4, 2, 1], 1.5)).toBe(1); // 2 is 1.33 times it, 1 a 1.5th
  expect(nearestIndex([4, 2, 1], 0.2)).toBe(2);
  expect(nearestIndex([0.5, 0.5, 8], 0.5)).toBe(0);
});
