import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";

import { api, data, type JobMove, type WorkshopSettings } from "../api/client";
import { CheckBox } from "../ui/CheckBox";
import { Complaint } from "../ui/Complaint";
import { fixed, watts } from "../ui/format";
import { LeftHead, Table } from "../ui/Table";

type Standing = JobMove["before"];

/** Which open jobs follow the shop in what is being changed, how they would stand, and which of them move with it. */
export function Moves({
  shop,
  moving,
  onMoving,
}: {
  shop: WorkshopSettings;
  moving: readonly number[];
  onMoving: (jobs: number[]) => void;
}) {
  const asked = useDeferredValue(shop);
  const moves = useQuery({
    queryKey: ["moves", asked],
    queryFn: async ({ signal }) =>
      data(await api.POST("/api/v1/workshop-settings/moves", { body: { settings: asked }, signal })),
    staleTime: 0,
  });
  if (moves.error) return <Complaint>{moves.error.message}</Complaint>;
  if (!moves.data || moves.data.count === 0) return null;
  const { jobs, count } = moves.data;
  return (
    <section aria-label="Jobs that move" className="border-ochre mb-6 border-l-4 pl-4">
      <h2 className="mb-1">
        {count === 1 ? "One open job follows" : `${count} open jobs follow`} the shop in this
      </h2>
      <p className="text-soft mb-2 text-sm">
        Those that are ticked change when you save; each gets a revision that can be gone back to. The others
        keep what they have.
      </p>
      <CheckBox
        label="All of them"
        checked={moving.length === jobs.length}
        onChange={(on) => onMoving(on ? jobs.map((each) => each.id) : [])}
      />
      <Table
        label="Jobs that move"
        head={[
          "Job",
          <LeftHead key="now">As it stands</LeftHead>,
          <LeftHead key="then">With the change</LeftHead>,
        ]}
      >
        {jobs.map((each) => (
          <tr key={each.id}>
            <td>
              <CheckBox
                label={each.title}
                checked={moving.includes(each.id)}
                onChange={(on) =>
                  onMoving(on ? [...moving, each.id] : moving.filter((other) => other !== each.id))
                }
              />
            </td>
            <td className="text-left!">{standing(each.before)}</td>
            <td className="text-left!">
              {standing(each.after)}
              <Told sign="＋" flags={each.after.flags} but={each.before.flags} />
              <Told sign="−" flags={each.before.flags} but={each.after.flags} />
            </td>
          </tr>
        ))}
      </Table>
      {count > jobs.length && (
        <p className="text-soft mt-1 text-sm">
          The latest {jobs.length} are shown; the others keep what they have.
        </p>
      )}
    </section>
  );
}

/** Flags that only one of both has. */
function Told({ sign, flags, but }: { sign: string; flags: string[]; but: string[] }) {
  return flags
    .filter((each) => !but.includes(each))
    .map((each) => (
      <span key={each} className="text-soft block text-sm">
        {sign} {each}
      </span>
    ));
}

function standing({ terminal_v, delivered_w, flags }: Standing): string {
  const parts = [
    terminal_v == null ? "no volts" : `${fixed(terminal_v, 2)} V`,
    delivered_w == null ? "" : `${watts(delivered_w)} W`,
    flags.length === 0 ? "no flag" : flags.length === 1 ? "1 flag" : `${flags.length} flags`,
  ];
  return parts.filter(Boolean).join(" · ");
}
