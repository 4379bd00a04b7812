import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type WorkshopSettings } from "../api/client";

export interface StoredShop {
  version: number;
  settings: WorkshopSettings;
}

/** What is shown by until the workshop's own settings have arrived. */
const USUAL: WorkshopSettings = {
  sizes: "awg",
  lengths: "m",
  cut_share: 0.05,
  cut_ends_m: 0.2,
  currency: "EUR",
  tax_share: 0,
  quote_days: 30,
  shelf: [],
};

export async function readShop(): Promise<StoredShop> {
  return data(await api.GET("/api/v1/workshop-settings")) as StoredShop;
}

/** The workshop's settings as they are stored, with their version; what changes them has to wait for them. */
export function useStoredShop() {
  return useQuery({
    queryKey: ["shop"],
    queryFn: readShop,
    staleTime: Infinity,
  });
}

/** The workshop's settings, to show something by. */
export function useShop(): WorkshopSettings {
  return useStoredShop().data?.settings ?? USUAL;
}

/** Save them over the version they were changed from; what was reckoned with the old ones is asked for anew. */
export function useSaveShop() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (shop: StoredShop) =>
      data(await api.PUT("/api/v1/workshop-settings", { body: shop })) as StoredShop,
    onSuccess: (shop) => {
      client.setQueryData(["shop"], shop);
      for (const key of ["cable-plan", "cable-choices", "cable-schedule", "quote"])
        client.removeQueries({ queryKey: [key] });
    },
  });
}
