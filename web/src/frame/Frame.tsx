import { BookOpen, Moon, Search, Sun } from "lucide-react";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";

import type { Session } from "../api/client";
import { SignedOut } from "../session/SignedOut";
import { useLogOut } from "../session/useSession";
import { Region } from "../ui/Region";
import { useKeys } from "../job/useKeys";
import { FIND, find } from "../find/asked";
import { useLanding } from "./useLanding";
import { applyTheme, storedTheme } from "./theme";

const KEYS = { "/": find };
const PLACES = [
  ["/jobs", "Jobs"],
  ["/bench", "Bench"],
  ["/parts", "Parts"],
  ["/tones", "Tones"],
  ["/shop", "Shop"],
] as const;

const FindBox = lazy(async () => ({ default: (await import("../find/FindBox")).FindBox }));

/** The rail with the places, and the place that is open. */
export function Frame({ session }: { session: Session }) {
  const [theme, setTheme] = useState(storedTheme);
  const logOut = useLogOut();
  const [finding, setFinding] = useState(false);
  useEffect(() => {
    const find = () => setFinding(true);
    window.addEventListener(FIND, find);
    return () => window.removeEventListener(FIND, find);
  }, []);
  useKeys(KEYS);
  const { pathname } = useLocation();
  const page = useRef<HTMLElement>(null);
  useLanding(page, pathname);
  const toggle = () => {
    const next = theme === "daylight" ? "garage" : "daylight";
    applyTheme(next);
    setTheme(next);
  };
  return (
    <div className="flex min-h-screen">
      <a
        href="#page"
        className="bg-ink text-sheet sr-only z-40 px-4 py-3 focus:not-sr-only focus:fixed focus:top-2 focus:left-2"
      >
        Skip to the page
      </a>
      <nav
        aria-label="Places"
        className="bg-rail text-rail-ink print:hidden sticky top-0 flex h-screen w-19 shrink-0 flex-col overflow-y-auto max-sm:fixed max-sm:inset-x-0 max-sm:top-auto max-sm:bottom-0 max-sm:z-20 max-sm:h-14 max-sm:w-full max-sm:flex-row"
      >
        <div className="px-2 py-3 text-center leading-tight font-bold text-[#fdfbf6] max-sm:hidden">
          Under
          <br />
          Hood
        </div>
        {PLACES.map(([to, label]) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              `grid h-12 shrink-0 place-items-center max-sm:h-full max-sm:flex-1 max-sm:shrink max-sm:text-sm ${isActive ? "bg-paper text-ink font-bold" : "hover:bg-white/10"}`
            }
          >
            {label}
          </NavLink>
        ))}
        <div className="mt-auto flex flex-col pb-2 text-center text-xs max-sm:mt-0 max-sm:h-full max-sm:flex-row max-sm:pb-0">
          <button
            onClick={() => setFinding(true)}
            className="flex h-14 flex-col items-center justify-center gap-0.5 hover:bg-white/10 max-sm:w-11"
          >
            <Search size={16} aria-hidden />
            Find
          </button>
          <NavLink
            to="/guide"
            className={({ isActive }) =>
              `flex h-14 flex-col items-center justify-center gap-0.5 max-sm:w-11 ${isActive ? "bg-paper text-ink font-bold" : "hover:bg-white/10"}`
            }
          >
            <BookOpen size={16} aria-hidden />
            Guide
          </NavLink>
          <button
            onClick={toggle}
            className="flex h-14 flex-col items-center justify-center gap-0.5 hover:bg-white/10 max-sm:w-13"
          >
            {theme === "daylight" ? <Moon size={16} aria-hidden /> : <Sun size={16} aria-hidden />}
            {theme === "daylight" ? "Garage" : "Daylight"}
          </button>
          <Link
            to="/shop/you"
            title={`${session.role ?? ""} at ${session.workshop ?? ""}`}
            className="grid min-h-11 place-items-center truncate px-1 leading-tight hover:bg-white/10 max-sm:hidden"
          >
            {session.username}
            {session.role === "viewer" && <span>looks only</span>}
          </Link>
          <button
            onClick={() => logOut.mutate()}
            className="h-11 hover:bg-white/10 max-sm:hidden"
            title={session.workshop ?? ""}
          >
            Log out
          </button>
        </div>
      </nav>
      <main id="page" ref={page} tabIndex={-1} className="min-w-0 flex-1 outline-none max-sm:pb-16">
        <Region name="This page" again={pathname}>
          <Suspense fallback={<p className="text-soft p-8">Opening …</p>}>
            <Outlet />
          </Suspense>
        </Region>
      </main>
      <SignedOut demo={session.demo} />
      {finding && (
        <Suspense>
          <FindBox open onClose={() => setFinding(false)} />
        </Suspense>
      )}
    </div>
  );
}
