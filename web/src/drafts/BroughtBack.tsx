import { clock } from "../ui/moments";

/** Says that this browser kept what was typed, and offers to throw it away. */
export function BroughtBack({ at, onThrowAway }: { at: number | null; onThrowAway: () => void }) {
  if (at === null) return null;
  return (
    <p role="status" className="bg-sheet border-rule mb-3 border px-3 text-sm">
      What you typed at {clock(at)} is back, not saved yet.
      <button
        type="button"
        className="text-teal min-h-11 px-2 underline underline-offset-4"
        onClick={onThrowAway}
      >
        Throw it away
      </button>
    </p>
  );
}
