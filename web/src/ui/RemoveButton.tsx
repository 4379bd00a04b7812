import { X } from "lucide-react";

interface Props {
  /** What it takes away, in words. */
  label: string;
  disabled?: boolean;
  /** Out of the way of the Tab key in a grid that is walked by arrows. */
  tabIndex?: number;
  onClick: () => void;
}

/** Takes one of a list away. */
export function RemoveButton({ label, ...rest }: Props) {
  return (
    <button
      type="button"
      className="text-soft hover:text-vermilion inline-grid size-11 shrink-0 place-items-center disabled:opacity-45"
      aria-label={label}
      {...rest}
    >
      <X size={18} aria-hidden />
    </button>
  );
}
