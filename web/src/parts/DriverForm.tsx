import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, Problem, type Driver, type DriverOut } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { draftOf, DRIVER_FIELDS, driverOf } from "./driverFields";

/** One driver's parameters as its data sheet has them; what does not fit is said beside the field. */
export function DriverForm({ stored, onDone }: { stored?: DriverOut; onDone: () => void }) {
  const client = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(stored?.driver));
  const done = () => {
    void client.invalidateQueries({ queryKey: ["drivers"] });
    onDone();
  };
  const save = useMutation({
    mutationFn: async (driver: Driver) =>
      stored
        ? data(
            await api.PUT("/api/v1/parts/drivers/{driver_id}", {
              params: { path: { driver_id: stored.id } },
              body: { driver, version: stored.version },
            }),
          )
        : data(await api.POST("/api/v1/parts/drivers", { body: { driver } })),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: async (id: number) => {
      await api.DELETE("/api/v1/parts/drivers/{driver_id}", { params: { path: { driver_id: id } } });
    },
    onSuccess: done,
  });
  const wrong = save.error instanceof Problem ? save.error.field.replace(/^driver\./, "") : null;
  return (
    <form
      aria-label={stored ? (stored.driver.name ?? "Driver") : "New driver"}
      className="border-ink bg-sheet mb-5 border p-5"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(driverOf(draft, stored?.driver));
      }}
    >
      <div className="grid grid-cols-4 gap-x-6 gap-y-2 max-md:grid-cols-2">
        {DRIVER_FIELDS.map((field) => {
          const finding = stored?.findings.find((each) => each.field === field.key);
          return (
            <label
              key={field.key}
              className={`text-soft text-sm ${field.key === "name" ? "col-span-2" : ""}`}
            >
              {field.words}
              {field.unit && `, ${field.unit}`}
              {field.needed && <span aria-hidden> *</span>}
              <input
                className={`bg-paper text-ink block h-11 w-full rounded-sm border px-2 ${field.key === "name" ? "" : "figure text-right"} ${wrong === field.key ? "border-vermilion" : "border-rule"}`}
                inputMode={field.key === "name" ? "text" : "decimal"}
                required={field.needed}
                aria-invalid={wrong === field.key}
                value={draft[field.key] ?? ""}
                onChange={(event) => setDraft({ ...draft, [field.key]: event.target.value })}
              />
              {finding && <span className="text-ochre block">▲ {finding.text}</span>}
            </label>
          );
        })}
      </div>
      {save.error && <Complaint>{save.error.message}</Complaint>}
      <div className="mt-4 flex gap-2">
        <Button strong type="submit" disabled={save.isPending}>
          Save the driver
        </Button>
        <Button onClick={onDone}>Close</Button>
        {stored && (
          <Button className="ml-auto" onClick={() => remove.mutate(stored.id)}>
            Remove it
          </Button>
        )}
      </div>
    </form>
  );
}
