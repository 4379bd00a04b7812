/** In place of the browser's store: `vi.mock("idb-keyval", () => import("../test/keyval"))`. */
export const browser = new Map<string, unknown>();
/** What every write waits for, where a test wants the store to be slow. */
export const slow: { until: Promise<void> | null } = { until: null };

export const createStore = () => null;
export const get = async (key: string) => Promise.resolve(browser.get(key));
export const set = async (key: string, value: unknown) => {
  await slow.until;
  browser.set(key, structuredClone(value));
};
export const update = async <T>(key: string, change: (before: T | undefined) => T) => {
  await slow.until;
  browser.set(key, structuredClone(change(browser.get(key) as T | undefined)));
};
export const del = async (key: string) => Promise.resolve(void browser.delete(key));
