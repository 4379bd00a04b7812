/** In place of the browser's store: `vi.mock("idb-keyval", () => import("../test/keyval"))`. */
export const browser = new Map<string, unknown>();

export const createStore = () => null;
export const get = async (key: string) => Promise.resolve(browser.get(key));
export const set = async (key: string, value: unknown) =>
  Promise.resolve(void browser.set(key, structuredClone(value)));
export const del = async (key: string) => Promise.resolve(void browser.delete(key));
