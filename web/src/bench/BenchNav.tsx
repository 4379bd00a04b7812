import { NavLink } from "react-router";

const PARTS = [
  ["/bench", "Amplifiers"],
  ["/bench/compare", "Compare"],
  ["/bench/resistors", "Resistor bank"],
  ["/bench/practice", "Practice"],
] as const;

/** The parts of the bench. */
export function BenchNav() {
  return (
    <nav
      aria-label="Parts of the bench"
      className="border-rule flex h-12 items-stretch gap-1 border-b px-6 max-sm:gap-0 max-sm:px-1"
    >
      {PARTS.map(([to, label]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `grid place-items-center border-b-3 px-4 max-sm:px-2 max-sm:text-center max-sm:text-sm ${isActive ? "border-copper bg-sunk font-bold" : "hover:bg-sunk border-transparent"}`
          }
        >
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
