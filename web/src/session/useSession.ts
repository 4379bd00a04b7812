import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data } from "../api/client";

/** Who is logged in. */
export function useSession() {
  return useQuery({ queryKey: ["session"], queryFn: async () => data(await api.GET("/api/v1/session")) });
}

/** Log in with a name and password, or into the demo with neither. */
export function useLogIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (who: { username: string; password: string } | "demo") =>
      who === "demo"
        ? data(await api.POST("/api/v1/session/demo"))
        : data(await api.POST("/api/v1/session", { body: who })),
    onSuccess: (session) => client.setQueryData(["session"], session),
  });
}

/** Log out and forget what was shown. */
export function useLogOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => data(await api.DELETE("/api/v1/session")),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(["session"], session);
    },
  });
}
