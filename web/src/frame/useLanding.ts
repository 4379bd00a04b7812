import { useEffect, useRef, type RefObject } from "react";

/**
 * Where the focus lands when another page has opened: whatever was in focus may be gone with the page before, and a
 * keyboard would start from nowhere. A link that stays keeps it.
 */
export function useLanding(page: RefObject<HTMLElement | null>, address: string) {
  const first = useRef(true);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return;
    }
    const frame = requestAnimationFrame(() => {
      const focused = document.activeElement;
      if (focused && focused !== document.body) return;
      page.current?.focus({ preventScroll: true });
    });
    return () => cancelAnimationFrame(frame);
  }, [page, address]);
}
