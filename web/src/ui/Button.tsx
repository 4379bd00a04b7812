import type { ButtonHTMLAttributes } from "react";

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  strong?: boolean;
  wide?: boolean;
}

/** The look of a link that stands where a button would. */
export const LINK_BUTTON =
  "border-rule bg-sheet hover:border-ink inline-grid h-11 place-items-center rounded-sm border px-4 font-medium whitespace-nowrap";

/** A button with a target that a gloved finger hits. */
export function Button({ strong = false, wide = false, className = "", ...rest }: Props) {
  const look = strong
    ? "bg-ink text-sheet border-ink hover:opacity-90"
    : "bg-sheet border-rule text-ink hover:border-ink";
  return (
    <button
      type="button"
      className={`inline-flex h-11 items-center justify-center gap-2 rounded-sm border px-4 font-medium whitespace-nowrap disabled:opacity-45 ${look} ${wide ? "w-full" : ""} ${className}`}
      {...rest}
    />
  );
}
