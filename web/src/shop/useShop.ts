import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, type WorkshopSettings } from "../api/client";

export interface StoredShop {
  version: number;
  settings: WorkshopSettings;
  logo?: boolean;
}

/** What is shown by until the workshop's own settings have arrived. */
export const USUAL: WorkshopSettings = {
  sizes: "awg",
  lengths: "m",
  cut_share: 0.05,
  cut_ends_m: 0.2,
  currency: "EUR",
  tax_share: 0,
  quote_days: 30,
  labour_per_hour: null,
  terminal_v: 12.5,
  drop_v: 0.5,
  criterion: "thd1",
  programme: "tone",
  load: "box",
  fuse: "cable",
  cable_margin: 0,
  paper: "a4",
  dates: "iso",
  decimals: "point",
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
    mutationFn: async (shop: { version: number; settings: WorkshopSettings; move: number[] }) =>
      data(await api.PUT("/api/v1/workshop-settings", { body: shop })) as StoredShop,
    onSuccess: (shop, { move }) => {
      client.setQueryData(["shop"], shop);
      void client.invalidateQueries({ queryKey: ["session"] });
      if (move.length > 0) void client.invalidateQueries({ queryKey: ["jobs"] });
      client.removeQueries({ queryKey: ["job-starts"] });
      for (const key of ["cable-options", "cable-options/{index}", "cable-schedules", "quote"])
        client.removeQueries({ queryKey: [key] });
    },
  });
}
