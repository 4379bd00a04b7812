import { useEffect, useState } from "react";

import type { Problem } from "../api/client";
import { Complaint } from "../ui/Complaint";

/** What was refused, in words; said here only where the station that is open does not show the field itself. */
export function RefusedNote({ problem, station }: { problem: Problem | null; station: string }) {
  const field = problem?.field ?? "";
  const place = `${station} ${field}`;
  const [looked, setLooked] = useState({ place: "", found: false });
  useEffect(() => {
    const frame = requestAnimationFrame(() => {
      const shown = [...document.querySelectorAll<HTMLElement>("[data-field]")];
      setLooked({ place, found: field !== "" && shown.some((each) => each.dataset.field === field) });
    });
    return () => cancelAnimationFrame(frame);
  }, [place, field]);
  if (!problem || looked.place !== place || looked.found) return null;
  return (
    <div className="px-5">
      <Complaint>{problem.message}</Complaint>
    </div>
  );
}
