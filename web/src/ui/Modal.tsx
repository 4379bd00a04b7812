import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

import { Button } from "./Button";

interface Props {
  title: string;
  open: boolean;
  onClose: () => void;
  width?: string;
  /** Whether it has a button of its own that closes it. */
  closable?: boolean;
  children: ReactNode;
}

/** Something that stands over the page until it is dealt with. */
export function Modal({ title, open, onClose, width = "max-w-2xl", closable = false, children }: Props) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-30">
      <div className="fixed inset-0 bg-black/35" aria-hidden />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel
          className={`bg-sheet border-ink max-h-full w-full overflow-y-auto border p-6 shadow-2xl ${width}`}
        >
          <div className="flex items-start justify-between gap-4">
            <DialogTitle className="text-lg font-bold">{title}</DialogTitle>
            {closable && <Button onClick={onClose}>Close</Button>}
          </div>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
