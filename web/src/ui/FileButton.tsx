import { useRef } from "react";

import { Button } from "./Button";

interface Props {
  label: string;
  accept: string;
  busy: boolean;
  quiet?: boolean;
  onFile: (file: File) => void;
}

/** A button that asks for one file. */
export function FileButton({ label, accept, busy, quiet = false, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) onFile(file);
        }}
      />
      <Button strong={!quiet} disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Reading …" : label}
      </Button>
    </>
  );
}
