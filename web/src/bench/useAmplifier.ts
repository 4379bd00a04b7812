import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, fileForm, type AmplifierOut, type AmplifierRecord, type Claim } from "../api/client";
import type { Cells } from "./grid/columns";

export async function readAmplifier(id: number, sheet?: number): Promise<AmplifierOut> {
  const params = { path: { amplifier_id: id }, query: sheet === undefined ? {} : { sheet } };
  return data(await api.GET("/api/v1/amplifiers/{amplifier_id}", { params }));
}

/** One amplifier with a sheet opened: the newest, or the one asked for. */
export function useAmplifier(id: number, sheet?: number) {
  return useQuery({
    queryKey: ["amplifier", id, sheet ?? "newest"],
    queryFn: () => readAmplifier(id, sheet),
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });
}

/** What follows every change of an amplifier: the answer is what is now stored, and whatever else was read is old. */
function useAfterChange() {
  const client = useQueryClient();
  return (amplifier: AmplifierOut) => {
    const every = { queryKey: ["amplifier", amplifier.id] };
    client.setQueryData([...every.queryKey, amplifier.sheet?.id ?? "newest"], amplifier);
    client.setQueriesData<AmplifierOut>(every, (read) =>
      read?.sheet?.id === amplifier.sheet?.id ? amplifier : read,
    );
    void client.invalidateQueries(every);
    void client.invalidateQueries({ queryKey: ["amplifiers"] });
  };
}

/** Save record and claims over the version they were changed from: the one shown where no other is named. */
export function useSaveAmplifier(amplifier: AmplifierOut) {
  return useMutation({
    mutationFn: async (changed: { record?: AmplifierRecord; claims?: Claim[]; version?: number }) =>
      data(
        await api.PUT("/api/v1/amplifiers/{amplifier_id}", {
          params: { path: { amplifier_id: amplifier.id } },
          body: {
            version: changed.version ?? amplifier.version,
            record: changed.record ?? amplifier.record,
            claims: changed.claims ?? amplifier.claims,
          },
        }),
      ),
    onSuccess: useAfterChange(),
  });
}

export interface SheetToSave {
  measured_on: string;
  note: string;
  rows: Cells[];
  /** The version that it was changed from; of a new one it says nothing. */
  version: number;
}

/** Save the opened sheet, or a new one where none is open. */
export function useSaveSheet(amplifier: AmplifierOut, asNew: boolean) {
  const sheet = amplifier.sheet;
  return useMutation({
    mutationFn: async ({ version, ...body }: SheetToSave) => {
      const path = { amplifier_id: amplifier.id };
      if (asNew || !sheet) {
        return data(await api.POST("/api/v1/amplifiers/{amplifier_id}/sheets", { params: { path }, body }));
      }
      return data(
        await api.PUT("/api/v1/amplifiers/{amplifier_id}/sheets/{sheet_id}", {
          params: { path: { ...path, sheet_id: sheet.id } },
          body: { ...body, version },
        }),
      );
    },
    onSuccess: useAfterChange(),
  });
}

/** Claims from a file in place of those on record. */
export function useImportClaims(amplifier: AmplifierOut) {
  return useMutation({
    mutationFn: async (file: File) =>
      data(
        await api.POST("/api/v1/amplifiers/{amplifier_id}/claims/import", {
          params: { path: { amplifier_id: amplifier.id } },
          ...fileForm(file),
        }),
      ),
    onSuccess: useAfterChange(),
  });
}
