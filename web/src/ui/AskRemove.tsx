import { Button } from "./Button";
import { Complaint } from "./Complaint";
import { Modal } from "./Modal";

interface Props {
  /** What is to go, as it is called; null where nothing is asked. */
  what: string | null;
  busy: boolean;
  error: Error | null;
  onRemove: () => void;
  onKeep: () => void;
}

/** Asks before something is removed, and says how it comes back. */
export function AskRemove({ what, busy, error, onRemove, onKeep }: Props) {
  return (
    <Modal title={`Remove ${what ?? ""}?`} open={what !== null} onClose={onKeep} width="max-w-md">
      <p className="mt-2">For 30 days it can be put back, from Records in the Shop.</p>
      {error && <Complaint>{error.message}</Complaint>}
      <div className="mt-4 flex gap-2">
        <Button strong disabled={busy} onClick={onRemove}>
          Remove
        </Button>
        <Button onClick={onKeep}>Keep</Button>
      </div>
    </Modal>
  );
}
