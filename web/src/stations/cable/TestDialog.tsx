import { useState, type ReactNode } from "react";

import { Modal } from "../../ui/Modal";

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
        className="text-teal min-h-11 text-sm underline underline-offset-4"
        onClick={() => setOpen(true)}
      >
        {open} …
      </button>
      <Modal title={title} open={isOpen} onClose={close} closable>
        {children(close)}
      </Modal>
    </>
  );
}
