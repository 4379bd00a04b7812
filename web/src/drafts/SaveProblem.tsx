import { Problem } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";

interface Props {
  error: Error | null;
  /** Takes the version that somebody else saved meanwhile as the one that mine goes over. */
  onOver: (version: number) => void;
}

/** Why it was not saved; where somebody else saved first, theirs is replaced only by choice. */
export function SaveProblem({ error, onOver }: Props) {
  if (!error) return null;
  const theirs = error instanceof Problem && error.status === 409 ? error.version : null;
  return (
    <>
      <Complaint>{error.message}</Complaint>
      {theirs !== null && (
        <Button className="mt-2" onClick={() => onOver(theirs)}>
          Save mine over it at the next save
        </Button>
      )}
    </>
  );
}
