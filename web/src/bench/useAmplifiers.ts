import { useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { usePages } from "../api/usePages";

/** The most that a list to choose from holds; as many as the server gives at once. */
export const MOST_CHOICES = 500;

/** The amplifiers of the workshop, a page at a time. */
export function useAmplifiers() {
  return usePages(["amplifiers", "pages"], async (offset) =>
    data(await api.GET("/api/v1/amplifiers", { params: { query: { offset } } })),
  );
}

/** The amplifiers of the workshop to choose from. */
export function useAmplifierChoices() {
  return useQuery({
    queryKey: ["amplifiers", "choices"],
    queryFn: async () => {
      const query = { limit: MOST_CHOICES };
      return data(await api.GET("/api/v1/amplifiers", { params: { query } })).items;
    },
  });
}
