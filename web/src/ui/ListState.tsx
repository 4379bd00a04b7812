import type { ReactNode } from "react";

import { Button } from "./Button";
import { Complaint } from "./Complaint";

interface Props {
  /** What is listed, in words: "jobs". */
  what: string;
  rows: readonly unknown[] | undefined;
  error: Error | null;
  onAgain: () => void;
  /** What to say, and to do, where there is none. */
  children: ReactNode;
}

/** What stands where a list has no rows: that it is looked for, why it did not come, or what to do first. */
export function ListState({ what, rows, error, onAgain, children }: Props) {
  if (error)
    return (
      <>
        <Complaint>{error.message}</Complaint>
        <Button className="mt-2" onClick={onAgain}>
          Try again
        </Button>
      </>
    );
  if (!rows) return <p className="text-soft mt-6">Looking for {what} …</p>;
  return rows.length === 0 ? <div className="mt-6">{children}</div> : null;
}
