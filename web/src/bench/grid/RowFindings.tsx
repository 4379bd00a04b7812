import { useState } from "react";

import type { Finding } from "../../api/client";
import { Button } from "../../ui/Button";
import { SeverityMark } from "../../ui/SeverityMark";
import type { Cells } from "./columns";
import { asRead } from "./rows";
import { Input } from "../../ui/Input";

interface Props {
  row: Cells;
  findings: Finding[];
  onJudge: (change: Cells) => void;
}

/** What the audit says of one reading, and what is done about it: kept, excluded or corrected, with the reason. */
export function RowFindings({ row, findings, onJudge }: Props) {
  const [reason, setReason] = useState(row.reason ?? "");
  const judged = row.excluded || row.kept || row.as_read;
  const judge = (change: Cells) => onJudge({ excluded: "", kept: "", ...change, reason });
  return (
    <div className="max-w-3xl space-y-2 py-1">
      {findings.map((each) => (
        <p key={each.code} className="text-sm">
          <SeverityMark severity={each.severity} /> <b>{each.title}</b>: {each.text}. {each.why}{" "}
          <span className="text-soft">{each.remedy}</span>
          {each.settled && <span className="text-moss"> ✓ kept: {each.settled}</span>}
        </p>
      ))}
      {row.as_read && <p className="text-soft text-sm">Corrected; first read: {row.as_read}.</p>}
      <div className="flex flex-wrap items-end gap-2">
        <label className="text-soft grow text-sm">
          Reason
          <Input
            className="block w-full"
            value={reason}
            placeholder="why it is kept, excluded or corrected"
            onChange={(event) => setReason(event.target.value)}
          />
        </label>
        <Button disabled={!reason.trim()} onClick={() => judge({ kept: "yes" })}>
          Keep it
        </Button>
        <Button disabled={!reason.trim()} onClick={() => judge({ excluded: "yes" })}>
          Exclude from the fit
        </Button>
        <Button
          disabled={!reason.trim() || Boolean(row.as_read)}
          onClick={() => judge({ as_read: asRead(row) })}
          title="Notes what was first read; then type the right figure into the row."
        >
          Correct it
        </Button>
        {judged && (
          <Button onClick={() => onJudge({ excluded: "", kept: "", as_read: "", reason: "" })}>
            Open again
          </Button>
        )}
      </div>
    </div>
  );
}
