import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { api, data } from "../api/client";
import { usePages } from "../api/usePages";
import { ShopNav } from "../shop/ShopNav";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";
import { ListState } from "../ui/ListState";
import { MoreRows } from "../ui/MoreRows";
import { day, moment } from "../ui/moments";
import { Select } from "../ui/Select";
import { LeftHead, Table } from "../ui/Table";
import { inWords } from "../ui/writing";

const KINDS = [
  "job",
  "amplifier",
  "sheet",
  "driver",
  "part",
  "reading",
  "person",
  "settings",
  "link",
  "archive",
];
const AT_ONCE = 50;

/** What was removed of late, to be put back, and who changed what and when. */
export function RecordsPage() {
  return (
    <>
      <ShopNav />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        <h1 className="mb-3 text-2xl font-bold">Records</h1>
        <Removed />
        <Trail />
      </div>
    </>
  );
}

function Removed() {
  const client = useQueryClient();
  const key = ["removed"];
  const list = useQuery({ queryKey: key, queryFn: async () => data(await api.GET("/api/v1/removed")) });
  const back = useMutation({
    mutationFn: async ({ kind, id }: { kind: string; id: number }) =>
      data(
        await api.POST("/api/v1/removed/{kind}/{row_id}/put-back", {
          params: { path: { kind, row_id: id } },
        }),
      ),
    // Whatever came back may stand in any list.
    onSuccess: () => void client.invalidateQueries(),
  });
  return (
    <section aria-label="Removed" className="mb-6">
      <h2 className="mb-1">Removed in the last 30 days</h2>
      {back.error && <Complaint>{back.error.message}</Complaint>}
      <ListState
        what="what was removed"
        rows={list.data}
        error={list.error}
        onAgain={() => void list.refetch()}
      >
        <p className="text-soft">Nothing. What is removed can be put back from here for 30 days.</p>
      </ListState>
      {!!list.data?.length && (
        <Table
          label="Removed"
          head={[
            "What",
            <LeftHead key="kind">Kind</LeftHead>,
            <LeftHead key="by">Removed</LeftHead>,
            <LeftHead key="until">Gone for good</LeftHead>,
            "",
          ]}
        >
          {list.data.map((each) => (
            <tr key={`${each.kind} ${each.id}`}>
              <td>{each.title}</td>
              <td className="text-left!">{each.kind}</td>
              <td className="text-left!">
                {moment(each.removed_at)}
                {each.removed_by && `, ${each.removed_by}`}
              </td>
              <td className="text-left!">{day(each.gone_at)}</td>
              <td>
                <Button
                  aria-label={`Put ${each.title} back`}
                  disabled={back.isPending}
                  onClick={() => back.mutate(each)}
                >
                  Put back
                </Button>
              </td>
            </tr>
          ))}
        </Table>
      )}
    </section>
  );
}

function Trail() {
  const [kind, setKind] = useState("");
  const [typed, setTyped] = useState("");
  const search = useDeferredValue(typed);
  const changes = usePages(["changes", kind, search], async (offset, signal) => {
    const query = { kind, search, offset, limit: AT_ONCE };
    return data(await api.GET("/api/v1/changes", { params: { query }, signal }));
  });
  return (
    <section aria-label="Changes">
      <div className="mb-2 flex flex-wrap items-end gap-3">
        <h2>Who changed what</h2>
        <Select aria-label="Kind of change" value={kind} onChange={(event) => setKind(event.target.value)}>
          <option value="">everything</option>
          {KINDS.map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
        </Select>
        <Input
          type="search"
          aria-label="Find a change by its title or person"
          placeholder="title or person"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      </div>
      <ListState what="changes" rows={changes.rows} error={changes.error} onAgain={changes.again}>
        <p className="text-soft">Nothing yet.</p>
      </ListState>
      {!!changes.rows?.length && (
        <Table
          label="Changes"
          head={["When", <LeftHead key="who">Who</LeftHead>, <LeftHead key="what">What</LeftHead>]}
        >
          {changes.rows.map((each) => (
            <tr key={each.id}>
              <td className="whitespace-nowrap">{moment(each.at)}</td>
              <td className="text-left!">{each.name || "the program"}</td>
              <td className="text-left!">
                {each.did} {each.kind} <b>{each.title}</b>
                {each.version !== null && <span className="text-soft">, revision {each.version}</span>}
                {each.told && <span className="text-soft block text-sm">{inWords(each.told)}</span>}
              </td>
            </tr>
          ))}
        </Table>
      )}
      <MoreRows shown={changes.rows?.length ?? 0} count={changes.count} more={changes.more} />
    </section>
  );
}
