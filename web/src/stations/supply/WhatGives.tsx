import type { SupplyReport } from "../../api/client";
import { SeverityMark } from "../../ui/SeverityMark";
import { inWords } from "../../ui/writing";
import { Group } from "../Split";

/** One sentence each on what gives, the most pressing first. */
export function WhatGives({ gives }: { gives: SupplyReport["gives"] }) {
  return (
    <Group title="What gives first">
      <ol aria-label="What gives first" className="space-y-1">
        {gives.map((each) => (
          <li key={each.text}>
            <SeverityMark severity={each.severity} /> {inWords(each.text)}
          </li>
        ))}
        {gives.length === 0 && (
          <li className="text-moss">✓ Nothing: charger, battery and run hold in every state.</li>
        )}
      </ol>
    </Group>
  );
}
