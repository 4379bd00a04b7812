import { useEffect, useRef } from "react";

/** Hands what is still pending over when the page is left for another one. */
export function useOnLeave<T>(pending: T | null, hand: (pending: T) => void) {
  const latest = useRef({ pending, hand });
  useEffect(() => {
    latest.current = { pending, hand };
  });
  useEffect(
    () => () => {
      const { pending: left, hand: over } = latest.current;
      if (left !== null) over(left);
    },
    [],
  );
}
