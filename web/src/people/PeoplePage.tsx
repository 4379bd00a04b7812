import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Person, type Role } from "../api/client";
import { useSession } from "../session/useSession";
import { ShopNav } from "../shop/ShopNav";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";
import { ListState } from "../ui/ListState";
import { Modal } from "../ui/Modal";
import { day, moment } from "../ui/moments";
import { RemoveButton } from "../ui/RemoveButton";
import { Select } from "../ui/Select";
import { LeftHead, Table } from "../ui/Table";
import { ROLES } from "./roles";

const KEY = ["people"];

/** Who works here and as what; an owner invites, changes and sends away. */
export function PeoplePage() {
  const client = useQueryClient();
  const owner = useSession().data?.role === "owner";
  const people = useQuery({ queryKey: KEY, queryFn: async () => data(await api.GET("/api/v1/people")) });
  const again = () => void client.invalidateQueries({ queryKey: KEY });
  const [leaving, setLeaving] = useState<Person | null>(null);
  const change = useMutation({
    mutationFn: async ({ id, role }: { id: number; role: Role }) =>
      data(
        await api.PUT("/api/v1/people/{person_id}", { params: { path: { person_id: id } }, body: { role } }),
      ),
    onSettled: again,
  });
  const remove = useMutation({
    mutationFn: async (id: number) =>
      data(await api.DELETE("/api/v1/people/{person_id}", { params: { path: { person_id: id } } })),
    onSuccess: () => setLeaving(null),
    onSettled: again,
  });
  const revoke = useMutation({
    mutationFn: async (id: number) =>
      data(
        await api.DELETE("/api/v1/invitations/{invitation_id}", { params: { path: { invitation_id: id } } }),
      ),
    onSettled: again,
  });
  const problem = change.error ?? remove.error ?? revoke.error;
  return (
    <>
      <ShopNav />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        <h1 className="mb-3 text-2xl font-bold">People</h1>
        {problem && <Complaint>{problem.message}</Complaint>}
        <ListState what="people" rows={people.data?.people} error={people.error} onAgain={again}>
          Nobody.
        </ListState>
        {people.data && (
          <Table
            label="People"
            head={[
              "Name",
              <LeftHead key="role">May</LeftHead>,
              <LeftHead key="seen">Last seen</LeftHead>,
              "Browsers logged in",
              "",
            ]}
          >
            {people.data.people.map((each) => (
              <tr key={each.id}>
                <td>
                  <b>{each.username}</b>
                  {each.you && <span className="text-soft"> (you)</span>}
                </td>
                <td className="text-left!">
                  {owner ? (
                    <Select
                      aria-label={`Role of ${each.username}`}
                      value={each.role}
                      onChange={(event) => change.mutate({ id: each.id, role: event.target.value as Role })}
                    >
                      {ROLES.map(([key, words]) => (
                        <option key={key} value={key}>
                          {words}
                        </option>
                      ))}
                    </Select>
                  ) : (
                    each.role
                  )}
                </td>
                <td className="text-left!">{each.seen_at ? moment(each.seen_at) : "never"}</td>
                <td className="figure">{each.browsers}</td>
                <td>
                  {owner && !each.you && (
                    <RemoveButton
                      label={`${each.username} works here no more`}
                      onClick={() => setLeaving(each)}
                    />
                  )}
                </td>
              </tr>
            ))}
          </Table>
        )}
        <dl className="text-soft mt-3 grid grid-cols-[auto_1fr] gap-x-3 text-sm">
          {ROLES.map(([key, words, may]) => (
            <div key={key} className="contents">
              <dt>{words}</dt>
              <dd>{may}</dd>
            </div>
          ))}
        </dl>
        {owner ? (
          <Invite onInvited={again} />
        ) : (
          <p className="text-soft mt-5">
            An owner of the workshop invites people and changes what they may do.
          </p>
        )}
        {owner && !!people.data?.invitations.length && (
          <section aria-label="Open invitations" className="mt-5">
            <h2 className="mb-1">Open invitations</h2>
            <ul>
              {people.data.invitations.map((each) => (
                <li key={each.id} className="border-rule flex items-center justify-between border-b">
                  <span>
                    as {each.role}, until {day(each.expires_at)}
                  </span>
                  <Button className="my-1" disabled={revoke.isPending} onClick={() => revoke.mutate(each.id)}>
                    Take back
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
      <Modal
        title={`${leaving?.username ?? ""} works here no more?`}
        open={leaving !== null}
        onClose={() => setLeaving(null)}
        width="max-w-md"
      >
        <p className="mt-2">
          They are logged out everywhere at once and cannot log in again. What they did keeps their name.
        </p>
        <div className="mt-4 flex gap-2">
          <Button strong disabled={remove.isPending} onClick={() => leaving && remove.mutate(leaving.id)}>
            Send away
          </Button>
          <Button onClick={() => setLeaving(null)}>Keep</Button>
        </div>
        {remove.error && <Complaint>{remove.error.message}</Complaint>}
      </Modal>
    </>
  );
}

/** A link by which one person joins, shown this once: it is handed over in whatever way is at hand. */
function Invite({ onInvited }: { onInvited: () => void }) {
  const [role, setRole] = useState<Role>("installer");
  const invite = useMutation({
    mutationFn: async () => data(await api.POST("/api/v1/invitations", { body: { role } })),
    onSuccess: onInvited,
  });
  const link = invite.data && `${window.location.origin}/join/${invite.data.secret}`;
  return (
    <section aria-label="Invite" className="mt-6">
      <h2 className="mb-1">Invite somebody</h2>
      <div className="flex flex-wrap items-end gap-3">
        <label className="text-soft text-sm">
          As
          <Select
            className="block"
            aria-label="What they may do"
            value={role}
            onChange={(event) => {
              setRole(event.target.value as Role);
              invite.reset();
            }}
          >
            {ROLES.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </label>
        <Button strong disabled={invite.isPending} onClick={() => invite.mutate()}>
          Make a link
        </Button>
      </div>
      {invite.error && <Complaint>{invite.error.message}</Complaint>}
      {link && (
        <div className="border-copper mt-3 border-l-4 pl-3">
          <label className="text-soft block text-sm">
            Hand this link over. It is shown this once, and works once within a week.
            <Input
              readOnly
              className="figure mt-1 block w-full"
              value={link}
              onFocus={(e) => e.target.select()}
            />
          </label>
          <Button className="mt-2" onClick={() => void navigator.clipboard?.writeText(link)}>
            Copy
          </Button>
        </div>
      )}
    </section>
  );
}
