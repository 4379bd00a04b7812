import { useEffect, useState } from "react";

const SEEN_AFTER_MS = 60;

/** Whether something has been so for a moment: an answer that comes at once dims nothing. */
export function useLasting(so: boolean): boolean {
  const [lasting, setLasting] = useState(false);
  useEffect(() => {
    if (!so) return;
    const timer = setTimeout(() => setLasting(true), SEEN_AFTER_MS);
    return () => {
      clearTimeout(timer);
      setLasting(false);
    };
  }, [so]);
  return so && lasting;
}
