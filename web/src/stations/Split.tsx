import type { ReactNode } from "react";

import { Terms } from "../guide/Terms";

/** A station: what is given on the left, what follows from it on the right; a sheet alone takes the whole width. */
export function Split({ given, children }: { given: ReactNode; children: ReactNode }) {
  return (
    <div className={given ? "grid grid-cols-[268px_minmax(0,1fr)] max-md:grid-cols-1" : ""}>
      {given && <div className="border-rule min-h-full border-r py-4 pr-3 pl-5">{given}</div>}
      <div className="px-5 py-4">{children}</div>
    </div>
  );
}

/** A group of fields or results under one heading. */
export function Group({ title, children, aside }: { title: string; children: ReactNode; aside?: ReactNode }) {
  return (
    <section className="mb-6" aria-label={title}>
      <div className="mb-1 flex items-center justify-between gap-3">
        <h2>
          <Terms>{title}</Terms>
        </h2>
        {aside}
      </div>
      {children}
    </section>
  );
}
