export type Severity = "act" | "caution" | "note";

const SIGNS: Record<Severity, [string, string, string]> = {
  act: ["◆", "text-vermilion", "act"],
  caution: ["▲", "text-ochre", "caution"],
  note: ["▪", "text-soft", "note"],
};

/** How serious a flag or finding is, by shape, colour and word. */
export function SeverityMark({ severity }: { severity: Severity }) {
  const [sign, colour, word] = SIGNS[severity];
  return (
    <span className={colour} role="img" aria-label={word}>
      {sign}
    </span>
  );
}

/** The most serious of several. */
export function worst(of: readonly { severity: Severity }[]): Severity {
  const order: Severity[] = ["act", "caution", "note"];
  return order.find((severity) => of.some((each) => each.severity === severity)) ?? "note";
}
