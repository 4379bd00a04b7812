import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import { api, data } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Modal } from "../ui/Modal";
import { changedBy, merged, type Side } from "./sides";
import { Scroller } from "../ui/Scroller";

interface Props<T> {
  onClose: () => void;
  /** What both began from; null where that is gone. */
  base: T | null;
  mine: T;
  theirs: T;
  onSettle: (document: T) => void;
  /** What else may be done with mine. */
  children?: ReactNode;
}

/** Both of two people's documents, field by field: mine, theirs, or some of each. */
export function Conflict<T extends object>({ onClose, base, mine, theirs, onSettle, children }: Props<T>) {
  const [picked, setPicked] = useState<Record<string, Side>>({});
  const told = useQuery({
    queryKey: ["differences", mine, theirs],
    queryFn: async ({ signal }) => {
      const body = { before: mine, after: theirs } as {
        before: Record<string, unknown>;
        after: typeof body.before;
      };
      return data(await api.POST("/api/v1/differences", { body, signal })).differences;
    },
    staleTime: Infinity,
    gcTime: 0,
  });
  const found = told.data ?? [];
  const chosen = Object.fromEntries(
    found.map(({ path }) => [path, picked[path] ?? changedBy(path, base, mine, theirs) ?? "mine"]),
  );
  const take = (side: Side) => setPicked(Object.fromEntries(found.map(({ path }) => [path, side])));
  return (
    <Modal title="Saved elsewhere meanwhile" open onClose={onClose} width="max-w-3xl">
      <p className="text-soft mt-1 mb-4">
        Somebody else, or another tab, saved this while you were typing. Choose what stands; nothing of either
        is lost before you do.
      </p>
      {told.isPending && <p className="text-soft">Comparing both …</p>}
      {told.error && <Complaint>{told.error.message}</Complaint>}
      {told.error && (
        <Button className="mt-2" onClick={() => void told.refetch()}>
          Try again
        </Button>
      )}
      {told.data?.length === 0 && <p>Both say the same.</p>}
      {found.length > 0 && (
        <Scroller label="Both, to scroll">
          <table className="w-full min-w-120 text-left">
            <thead>
              <tr className="border-rule border-b">
                <th className="py-2">Field</th>
                <th>Mine</th>
                <th>Theirs</th>
              </tr>
            </thead>
            <tbody>
              {found.map((each, i) => (
                <tr key={i} className="border-rule border-b align-top">
                  <th scope="row" className="py-2 pr-3 font-normal">
                    {each.words}
                  </th>
                  {(["mine", "theirs"] as const).map((side) => (
                    <td key={side} className="pr-3">
                      <label className="flex min-h-11 items-center gap-2">
                        <input
                          type="radio"
                          className="size-5"
                          name={`${each.path} ${i}`}
                          checked={chosen[each.path] === side}
                          onChange={() => setPicked({ ...picked, [each.path]: side })}
                        />
                        <span className="sr-only">{side}: </span>
                        {side === "mine" ? each.before : each.after}
                      </label>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </Scroller>
      )}
      <div className="mt-4 flex flex-wrap gap-3">
        <Button strong disabled={!told.data} onClick={() => onSettle(merged(mine, theirs, chosen))}>
          Save what is chosen
        </Button>
        <Button disabled={!told.data} onClick={() => take("mine")}>
          Choose all mine
        </Button>
        <Button disabled={!told.data} onClick={() => take("theirs")}>
          Choose all theirs
        </Button>
        {children}
        <Button onClick={onClose}>Later</Button>
      </div>
    </Modal>
  );
}
