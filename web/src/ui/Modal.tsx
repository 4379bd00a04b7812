import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props {
  title: string;
  open: boolean;
  onClose: () => void;
  width?: string;
  children: ReactNode;
}

/** Something that stands over the page until it is dealt with. */
export function Modal({ title, open, onClose, width = "max-w-2xl", children }: Props) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-30">
      <div className="fixed inset-0 bg-black/35" aria-hidden />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel
          className={`bg-sheet border-ink max-h-full w-full overflow-y-auto border p-6 shadow-2xl ${width}`}
        >
          <DialogTitle className="text-lg font-bold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
