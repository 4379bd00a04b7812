/** What is wrong with a field, below it; read out when it appears. */
export function Wrong({ id, children }: { id: string; children: string | null }) {
  if (!children) return null;
  return (
    <p id={id} role="alert" className="text-vermilion text-sm">
      <span aria-hidden>◆ </span>
      {children}
    </p>
  );
}
