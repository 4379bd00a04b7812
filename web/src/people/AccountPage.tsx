import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data } from "../api/client";
import { useLogOut, useSession } from "../session/useSession";
import { ShopNav } from "../shop/ShopNav";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";
import { ListState } from "../ui/ListState";
import { moment } from "../ui/moments";
import { LeftHead, Table } from "../ui/Table";

/** One's own password, and where one is logged in; an owner sees where everybody is. */
export function AccountPage() {
  const session = useSession().data;
  const logOut = useLogOut();
  return (
    <>
      <ShopNav />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        <div className="mb-4 flex flex-wrap items-center justify-between gap-3">
          <h1 className="text-2xl font-bold">
            {session?.username}
            <span className="text-soft ml-3 text-base font-normal">
              {session?.role} at {session?.workshop}
            </span>
          </h1>
          <Button onClick={() => logOut.mutate()}>Log out</Button>
        </div>
        <OwnPassword />
        <SignIns />
      </div>
    </>
  );
}

function OwnPassword() {
  const [old, setOld] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation({
    mutationFn: async () => data(await api.PUT("/api/v1/password", { body: { old, password } })),
    onSuccess: () => {
      setOld("");
      setPassword("");
    },
  });
  return (
    <section aria-label="Password" className="mb-6">
      <h2 className="mb-1">Password</h2>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <label className="text-soft text-sm">
          The present one
          <Input
            type="password"
            className="block w-56"
            autoComplete="current-password"
            value={old}
            onChange={(e) => setOld(e.target.value)}
          />
        </label>
        <label className="text-soft text-sm">
          The new one
          <Input
            type="password"
            className="block w-56"
            autoComplete="new-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        <Button type="submit" disabled={!old || !password || change.isPending}>
          Change it
        </Button>
      </form>
      <p className="text-soft mt-1 text-sm">
        At least ten characters, not your name, not one that everybody uses. Every other browser is logged
        out.
      </p>
      {change.error && <Complaint>{change.error.message}</Complaint>}
      {change.isSuccess && (
        <p role="status" className="text-moss mt-1">
          ✓ changed
        </p>
      )}
    </section>
  );
}

function SignIns() {
  const client = useQueryClient();
  const key = ["sign-ins"];
  const list = useQuery({ queryKey: key, queryFn: async () => data(await api.GET("/api/v1/sign-ins")) });
  const again = () => void client.invalidateQueries({ queryKey: key });
  const one = useMutation({
    mutationFn: async (id: number) =>
      data(await api.DELETE("/api/v1/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } })),
    onSettled: again,
  });
  const all = useMutation({
    mutationFn: async () => data(await api.DELETE("/api/v1/sign-ins")),
    onSettled: again,
  });
  const problem = one.error ?? all.error;
  return (
    <section aria-label="Logged in">
      <div className="mb-1 flex flex-wrap items-center justify-between gap-3">
        <h2>Logged in</h2>
        <Button disabled={all.isPending} onClick={() => all.mutate()}>
          Log me out everywhere else
        </Button>
      </div>
      {problem && <Complaint>{problem.message}</Complaint>}
      <ListState what="log-ins" rows={list.data} error={list.error} onAgain={again}>
        Nowhere.
      </ListState>
      {list.data && (
        <Table
          label="Logged in"
          head={[
            "Who",
            <LeftHead key="browser">Browser</LeftHead>,
            <LeftHead key="from">From</LeftHead>,
            <LeftHead key="seen">Last seen</LeftHead>,
            "",
          ]}
        >
          {list.data.map((each) => (
            <tr key={each.id}>
              <td>{each.username}</td>
              <td className="max-w-72 truncate text-left!" title={each.browser}>
                {each.browser || "unknown"}
              </td>
              <td className="figure text-left!">{each.address}</td>
              <td className="text-left!">{moment(each.seen_at)}</td>
              <td>
                {each.this_one ? (
                  <span className="text-soft text-sm">this one</span>
                ) : (
                  <Button disabled={one.isPending} onClick={() => one.mutate(each.id)}>
                    Log out
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </Table>
      )}
    </section>
  );
}
