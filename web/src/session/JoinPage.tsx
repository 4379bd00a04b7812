import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, data } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";

/** Joins a workshop by a link: a name and a password, and one is in. */
export function JoinPage() {
  const { secret = "" } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const invitation = useQuery({
    queryKey: ["invitation", secret],
    queryFn: async () => data(await api.POST("/api/v1/invitations/asked", { body: { secret } })),
  });
  const join = useMutation({
    mutationFn: async () =>
      data(await api.POST("/api/v1/invitations/accepted", { body: { secret, username, password } })),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(["session"], session);
      void navigate("/jobs");
    },
  });
  return (
    <main className="grid min-h-screen place-items-center p-6">
      <div className="border-rule bg-sheet w-full max-w-sm border p-8">
        <h1 className="text-2xl font-bold">Under Hood</h1>
        {invitation.error && <Complaint>{invitation.error.message}</Complaint>}
        {invitation.data && (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              join.mutate();
            }}
          >
            <p className="text-soft mt-1 mb-5">
              You are invited to <b className="text-ink">{invitation.data.workshop}</b> as{" "}
              {invitation.data.role}.
            </p>
            <label className="block">
              Name to log in with
              <Input
                className="mt-1 block w-full"
                autoComplete="username"
                value={username}
                onChange={(e) => setUsername(e.target.value)}
              />
            </label>
            <label className="mt-3 block">
              Password
              <Input
                className="mt-1 block w-full"
                type="password"
                autoComplete="new-password"
                value={password}
                onChange={(e) => setPassword(e.target.value)}
              />
            </label>
            <p className="text-soft mt-1 text-sm">At least ten characters.</p>
            <div className="mt-5">
              <Button strong wide type="submit" disabled={!username.trim() || !password || join.isPending}>
                Join
              </Button>
            </div>
            {join.error && <Complaint>{join.error.message}</Complaint>}
          </form>
        )}
      </div>
    </main>
  );
}
