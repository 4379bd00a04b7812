import { NavLink } from "react-router";

const PARTS = [
  ["/shop", "Settings"],
  ["/shop/people", "People"],
  ["/shop/records", "Records"],
  ["/shop/data", "Data"],
  ["/shop/you", "You"],
] as const;

/** The parts of the shop. */
export function ShopNav() {
  return (
    <nav
      aria-label="Parts of the shop"
      className="border-rule flex h-12 items-stretch gap-1 border-b px-6 max-sm:gap-0 max-sm:px-1"
    >
      {PARTS.map(([to, label]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `grid place-items-center border-b-3 px-4 max-sm:px-2.5 max-sm:text-sm ${isActive ? "border-copper bg-sunk font-bold" : "hover:bg-sunk border-transparent"}`
          }
        >
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
