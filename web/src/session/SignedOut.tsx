import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { SIGNED_IN, SIGNED_OUT } from "../api/client";
import { Modal } from "../ui/Modal";
import { LogInForm } from "./LogInForm";

/** Log-in over the page where the server asks for one; what was open goes on after it. */
export function SignedOut({ demo }: { demo: boolean }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const ask = () => setOpen(true);
    window.addEventListener(SIGNED_OUT, ask);
    return () => window.removeEventListener(SIGNED_OUT, ask);
  }, []);
  const done = () => {
    setOpen(false);
    window.dispatchEvent(new Event(SIGNED_IN));
    // What failed is asked for again; a job that is open keeps what was typed into it.
    void client.invalidateQueries({
      predicate: ({ queryKey, state }) => queryKey[0] !== "job" || state.status === "error",
    });
  };
  return (
    <Modal title="You were logged out" open={open} onClose={() => setOpen(false)} width="max-w-sm">
      <p className="text-soft mt-1 mb-5">Log in to go on. What you typed is kept in this browser.</p>
      <LogInForm demo={demo} onDone={done} />
    </Modal>
  );
}
