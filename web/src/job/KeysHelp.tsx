import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

import { Button } from "../ui/Button";

const KEYS = [
  ["1 – 6", "stations"],
  ["b", "what is played: tone, burst, music"],
  ["e", "engine: off, idle, cruise"],
  ["s", "the sum of the focused figure, or of the first one"],
  ["z", "undo"],
  ["Shift z", "redo"],
  ["?", "this list"],
] as const;

/** All keys of a job. */
export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-30">
      <div className="fixed inset-0 bg-black/35" aria-hidden />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="bg-sheet border-ink w-full max-w-md border p-6">
          <DialogTitle className="text-lg font-bold">Keys</DialogTitle>
          <dl className="my-4 grid grid-cols-[6rem_1fr] gap-y-2">
            {KEYS.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="figure">{key}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <Button onClick={onClose}>Close</Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
