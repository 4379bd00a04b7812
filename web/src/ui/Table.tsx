import type { ReactNode } from "react";

import { Terms } from "../guide/Terms";
import { Scroller } from "./Scroller";

interface Props {
  label: string;
  head: ReactNode[];
  children: ReactNode;
}

/** A plain ruled table; the first column is words, the others figures. */
export function Table({ label, head, children }: Props) {
  return (
    <Scroller label={`${label}, to scroll`}>
      <table
        aria-label={label}
        className="held w-full text-right max-lg:[&_th:has(.wide-only)]:hidden [&_td]:px-2 [&_td]:py-2 [&_td:first-child]:pl-0 [&_td:first-child]:text-left [&_th]:px-2 [&_th]:py-2 [&_th:first-child]:pl-0 [&_th:first-child]:text-left"
      >
        <thead className="text-soft border-rule border-b text-sm">
          <tr>
            {head.map((words, i) => (
              <th key={i} scope="col" className="font-normal">
                {typeof words === "string" ? <Terms beside>{words}</Terms> : words}
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="[&_tr]:border-rule [&_tr]:border-b">{children}</tbody>
      </table>
    </Scroller>
  );
}

/** A head of a column that a narrow screen does without; its cells are `max-lg:hidden`. */
export function WideHead({ children, left = false }: { children: string; left?: boolean }) {
  return (
    <span className={`wide-only ${left ? "block text-left" : ""}`}>
      <Terms beside>{children}</Terms>
    </span>
  );
}

/** A column head over words instead of figures. */
export function LeftHead({ children }: { children: string }) {
  return (
    <span className="block text-left">
      <Terms beside>{children}</Terms>
    </span>
  );
}
