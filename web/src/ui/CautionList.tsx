/** Cautions beside the work they belong to. */
export function CautionList({ cautions }: { cautions: readonly string[] }) {
  if (cautions.length === 0) return null;
  return (
    <ul aria-label="Cautions" className="border-ochre mt-2 space-y-1 border-l-4 pl-3 text-sm">
      {cautions.map((words) => (
        <li key={words}>
          <span className="text-ochre" aria-hidden>
            ▲{" "}
          </span>
          {words}
        </li>
      ))}
    </ul>
  );
}
