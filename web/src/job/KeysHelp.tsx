import { Modal } from "../ui/Modal";

const KEYS = [
  ["1 – 7", "stations"],
  ["b", "what is played: tone, burst, music"],
  ["e", "engine: off, idle, cruise"],
  ["r", "record a reading in the car"],
  ["s", "the sum of the focused figure, or of the first one"],
  ["z, Ctrl z", "undo"],
  ["Shift z, Ctrl y", "redo"],
  ["/", "find anything"],
  ["n", "a new job"],
  ["Esc", "leave a field, or close what stands over the page"],
  ["?", "this list"],
] as const;

/** All keys of a job. */
export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Modal title="Keys" open={open} onClose={onClose} width="max-w-md" closable>
      <dl className="mt-4 grid grid-cols-[8.5rem_1fr] gap-y-2">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt className="figure">{key}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
