import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type WorkshopSettings } from "../api/client";

/** What is shown by until the workshop's own settings have arrived. */
const USUAL: WorkshopSettings = {
  sizes: "awg",
  lengths: "m",
  cut_share: 0.05,
  cut_ends_m: 0.2,
  currency: "EUR",
  shelf: [],
};

/** The workshop's settings as they are stored; what changes them has to wait for them. */
export function useStoredShop() {
  return useQuery({
    queryKey: ["shop"],
    queryFn: async () => data(await api.GET("/api/shop")) as WorkshopSettings,
    staleTime: Infinity,
  });
}

/** The workshop's settings, to show something by. */
export function useShop(): WorkshopSettings {
  return useStoredShop().data ?? USUAL;
}

/** Save them; everything that was reckoned with the old ones is asked for anew. */
export function useSaveShop() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (shop: WorkshopSettings) =>
      data(await api.PUT("/api/shop", { body: shop as never })) as WorkshopSettings,
    onSuccess: (shop) => {
      client.setQueryData(["shop"], shop);
      for (const key of ["cable-plan", "cable-choices", "cable-schedule"])
        client.removeQueries({ queryKey: [key] });
    },
  });
}
