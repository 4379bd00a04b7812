import { Download } from "lucide-react";
import { useEffect, useState, type MouseEvent } from "react";

import type { SaveState } from "./saving/saving";

/** The job file, with what was typed a moment ago: it waits for the save that is on its way. */
export function ExportLink({ id, save }: { id: number; save: SaveState }) {
  const [wanted, setWanted] = useState(false);
  const href = `/api/v1/jobs/${id}/file`;
  const underWay = save === "edited" || save === "saving";
  useEffect(() => {
    if (!wanted || underWay) return;
    const timer = setTimeout(() => {
      setWanted(false);
      if (save === "clean" || save === "refused") window.location.assign(href);
    });
    return () => clearTimeout(timer);
  }, [wanted, underWay, save, href]);
  const ask = (event: MouseEvent) => {
    if (save === "clean") return;
    event.preventDefault();
    setWanted(true);
  };
  return (
    <a
      className="hover:bg-sunk flex h-11 min-w-11 items-center justify-center gap-2 rounded-sm px-3"
      href={href}
      aria-label="Export job file"
      aria-busy={wanted}
      onClick={ask}
      download
    >
      <span className="max-lg:hidden">{wanted ? "Saving first …" : "Export job file"}</span>
      <Download size={16} aria-hidden className="lg:hidden" />
    </a>
  );
}
