/// <reference types="node" />
import { DecompressionStream, ReadableStream } from "node:stream/web";

/** What jsdom lacks of a browser: nothing is ever laid out in it, so nothing is ever resized. */
class NeverResized {
  observe() {}
  unobserve() {}
  disconnect() {}
}

if (typeof HTMLCanvasElement !== "undefined") HTMLCanvasElement.prototype.getContext = () => null;
if (typeof window !== "undefined") {
  window.ResizeObserver ??= NeverResized;
  // Beside a type checker on both cores a second may pass in between.
  (await import("@testing-library/react")).configure({ asyncUtilTimeout: 5000 });
}
// Requests are Node's own: they take its streams, and bytes of its realm alone (`vmThreads` gives each file another).
Object.assign(globalThis, {
  DecompressionStream,
  ReadableStream,
  Uint8Array: Object.getPrototypeOf(Buffer) as unknown,
});
