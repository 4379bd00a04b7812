import type { SelectHTMLAttributes } from "react";

/** A choice from a list that is not in view until it is asked for: the device's own, which gloves and keyboards know. */
export function Select({ className = "", ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return (
    <select
      className={`border-rule bg-sheet text-ink h-11 max-w-full min-w-0 rounded-sm border px-2 ${className}`}
      {...rest}
    />
  );
}
