/** What jsdom lacks of a browser: nothing is ever laid out in it, so nothing is ever resized. */
class NeverResized {
  observe() {}
  unobserve() {}
  disconnect() {}
}

if (typeof HTMLCanvasElement !== "undefined") HTMLCanvasElement.prototype.getContext = () => null;
if (typeof window !== "undefined") window.ResizeObserver ??= NeverResized;
