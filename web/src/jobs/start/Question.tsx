import type { ReactNode } from "react";

/** One of the questions of a new job. */
export function Question({
  number,
  title,
  children,
}: {
  number: number;
  title: string;
  children: ReactNode;
}) {
  return (
    <fieldset className="mb-6 min-w-0">
      <legend className="mb-1 text-lg font-bold">
        <span className="text-copper figure mr-2">{number}</span>
        {title}
      </legend>
      {children}
    </fieldset>
  );
}
