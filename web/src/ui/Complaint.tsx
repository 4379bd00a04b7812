import type { ReactNode } from "react";

/** What went wrong, in the server's own sentence, read out when it appears. */
export function Complaint({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="border-vermilion text-vermilion bg-sheet mt-3 border-l-4 px-3 py-2">
      <span aria-hidden>◆ </span>
      {children}
    </p>
  );
}
