import { useEffect, useRef, useState, type ReactNode } from "react";

/** What may be wider than its place: scrolled inside itself, by keyboard too where there is something to scroll. */
export function Scroller({ label, children }: { label: string; children: ReactNode }) {
  const frame = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState(false);
  useEffect(() => {
    const now = frame.current;
    if (!now) return;
    const observer = new ResizeObserver(() => setOver(now.scrollWidth > now.clientWidth + 1));
    observer.observe(now);
    if (now.firstElementChild) observer.observe(now.firstElementChild);
    return () => observer.disconnect();
  }, []);
  return (
    <div
      ref={frame}
      className="relative overflow-x-auto"
      {...(over ? { tabIndex: 0, role: "group", "aria-label": label } : {})}
    >
      {children}
    </div>
  );
}
