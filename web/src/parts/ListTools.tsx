import type { ReactNode } from "react";

import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";

interface Props {
  exportAddress: string;
  importLabel: string;
  bring: {
    isPending: boolean;
    error: Error | null;
    data: { added: number; changed: number } | undefined;
    mutate: (file: File) => void;
  };
  children?: ReactNode;
}

/** A list of parts taken home and brought as CSV, and what came of it; what else there is to do stands before it. */
export function ListTools({ exportAddress, importLabel, bring, children }: Props) {
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        {children}
        <a
          className="border-rule bg-sheet hover:border-ink ml-auto grid h-11 place-items-center rounded-sm border px-4"
          href={exportAddress}
          download
        >
          Export all
        </a>
        <FileButton
          label={importLabel}
          accept=".csv,text/csv"
          busy={bring.isPending}
          onFile={(file) => bring.mutate(file)}
        />
      </div>
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      {bring.data && (
        <p role="status" className="text-moss mb-2 text-sm">
          ✓ {bring.data.added} added, {bring.data.changed} changed.
        </p>
      )}
    </>
  );
}
