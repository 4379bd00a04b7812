import type { InputHTMLAttributes, Ref } from "react";

interface Props extends InputHTMLAttributes<HTMLInputElement> {
  /** Whether what stands in it is refused. */
  wrong?: boolean;
  ref?: Ref<HTMLInputElement>;
}

/** A line to type in. */
export function Input({ wrong = false, className = "", ...rest }: Props) {
  const rule = wrong ? "border-vermilion" : "border-rule";
  return (
    <input
      className={`bg-sheet text-ink h-11 max-w-full min-w-0 rounded-sm border px-2 ${rule} ${className}`}
      aria-invalid={wrong || undefined}
      {...rest}
    />
  );
}
