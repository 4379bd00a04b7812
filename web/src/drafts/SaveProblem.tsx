import { useMutation } from "@tanstack/react-query";

import { Problem } from "../api/client";
import type { Stored } from "../job/saving/saving";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Conflict } from "./Conflict";

interface Props<T> {
  error: Error | null;
  base: T;
  mine: T;
  /** Reads what is stored now. */
  read: () => Promise<Stored<T>>;
  /** What stands after all, and the version that it is to be saved over. */
  onSettle: (document: T, version: number) => void;
}

/** Why it was not saved; where somebody else saved first, both are put side by side. */
export function SaveProblem<T extends object>({ error, base, mine, read, onSettle }: Props<T>) {
  const theirs = useMutation({ mutationFn: read });
  if (!error) return null;
  const elsewhere = error instanceof Problem && error.status === 409;
  return (
    <>
      <Complaint>{elsewhere ? "Not saved: this was saved elsewhere meanwhile." : error.message}</Complaint>
      {elsewhere && (
        <Button className="mt-2" disabled={theirs.isPending} onClick={() => theirs.mutate()}>
          See both
        </Button>
      )}
      {theirs.error && <Complaint>{theirs.error.message}</Complaint>}
      {theirs.data && (
        <Conflict
          base={base}
          mine={mine}
          theirs={theirs.data.document}
          onClose={() => theirs.reset()}
          onSettle={(document) => {
            const { version } = theirs.data;
            theirs.reset();
            onSettle(document, version);
          }}
        />
      )}
    </>
  );
}
