import { Button } from "./Button";

/** Below a list that has more rows than were asked for. */
export function MoreRows({
  shown,
  count,
  more,
}: {
  shown: number;
  count: number;
  more: (() => void) | null;
}) {
  if (!more) return null;
  return (
    <p className="mt-3 flex items-center gap-3">
      <Button onClick={more}>Show more</Button>
      <span className="text-soft text-sm">
        {shown} of {count}
      </span>
    </p>
  );
}
