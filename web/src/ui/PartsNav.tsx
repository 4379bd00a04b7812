import { NavLink } from "react-router";

/** The parts of a place, side by side; the open one is underlined. */
export function PartsNav({ label, parts }: { label: string; parts: readonly (readonly [string, string])[] }) {
  return (
    <nav
      aria-label={label}
      className="border-rule flex h-12 items-stretch gap-1 overflow-x-auto border-b px-6 max-sm:gap-0 max-sm:px-1"
    >
      {parts.map(([to, words]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `grid min-w-11 shrink-0 place-items-center border-b-3 px-4 whitespace-nowrap max-sm:px-2 max-sm:text-sm ${isActive ? "border-copper bg-sunk font-bold" : "hover:bg-sunk border-transparent"}`
          }
        >
          {words}
        </NavLink>
      ))}
    </nav>
  );
}
