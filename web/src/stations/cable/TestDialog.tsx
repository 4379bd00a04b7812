import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState, type ReactNode } from "react";

import { Button } from "../../ui/Button";

interface Props {
  title: string;
  /** The words of the button that opens it. */
  open: string;
  children: (close: () => void) => ReactNode;
}

/** A test with a meter, guided beside the work. */
export function TestDialog({ title, open, children }: Props) {
  const [isOpen, setOpen] = useState(false);
  const close = () => setOpen(false);
  return (
    <>
      <button
        type="button"
        className="text-teal min-h-9 text-sm underline underline-offset-4"
        onClick={() => setOpen(true)}
      >
        {open} …
      </button>
      <Dialog open={isOpen} onClose={close} className="relative z-30">
        <div className="fixed inset-0 bg-black/35" aria-hidden />
        <div className="fixed inset-0 grid place-items-center p-4">
          <DialogPanel className="bg-sheet border-ink max-h-full w-full max-w-2xl overflow-y-auto border p-6 shadow-2xl">
            <div className="mb-3 flex items-start justify-between gap-4">
              <DialogTitle className="text-lg font-bold">{title}</DialogTitle>
              <Button onClick={close}>Close</Button>
            </div>
            {children(close)}
          </DialogPanel>
        </div>
      </Dialog>
    </>
  );
}
