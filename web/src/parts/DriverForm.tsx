import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, Problem, type Driver, type DriverOut } from "../api/client";
import { BroughtBack } from "../drafts/BroughtBack";
import { SaveProblem } from "../drafts/SaveProblem";
import { useKept } from "../drafts/useKept";
import { MOST_CHOICES } from "../bench/useAmplifiers";
import { AskRemove } from "../ui/AskRemove";
import { Button } from "../ui/Button";
import { Input } from "../ui/Input";
import { draftOf, DRIVER_FIELDS, driverOf } from "./driverFields";

async function readDriver(id: number): Promise<DriverOut> {
  const params = { query: { limit: MOST_CHOICES } };
  const { items } = data(await api.GET("/api/v1/parts/drivers", { params }));
  const found = items.find((each) => each.id === id)?.opened;
  if (!found) throw new Error("This driver was taken off the list meanwhile.");
  return found;
}

/** One driver's parameters as its data sheet has them; what does not fit is said beside the field. */
export function DriverForm({ stored, onDone }: { stored?: DriverOut; onDone: () => void }) {
  const client = useQueryClient();
  const [first] = useState(() => ({ version: stored?.version ?? 0, document: draftOf(stored?.driver) }));
  const kept = useKept(`driver:${stored?.id ?? "new"}`, first);
  const draft = kept.value;
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
              body: { driver, version: kept.version },
            }),
          )
        : data(await api.POST("/api/v1/parts/drivers", { body: { driver } })),
    onSuccess: (answer) => {
      kept.saved(draft, answer.version);
      done();
    },
  });
  const [asking, setAsking] = useState(false);
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
      <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
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
              <Input
                className={`block w-full ${field.key === "name" ? "" : "figure text-right"}`}
                wrong={wrong === field.key}
                inputMode={field.key === "name" ? "text" : "decimal"}
                required={field.needed}
                value={draft[field.key] ?? ""}
                onChange={(event) => kept.set({ ...draft, [field.key]: event.target.value })}
              />
              {finding && <span className="text-ochre block">▲ {finding.text}</span>}
            </label>
          );
        })}
      </div>
      <SaveProblem
        error={save.error}
        base={kept.base}
        mine={draft}
        read={async () => {
          const now = await readDriver(stored?.id ?? 0);
          return { version: now.version, document: draftOf(now.driver) };
        }}
        onSettle={(settled, version) => {
          kept.settle(settled, version);
          save.reset();
        }}
      />
      {stored && (
        <AskRemove
          what={asking ? (stored.driver.name ?? "it") : null}
          busy={remove.isPending}
          error={remove.error}
          onRemove={() => remove.mutate(stored.id)}
          onKeep={() => setAsking(false)}
        />
      )}
      <div className="mt-4 flex gap-2">
        <Button strong type="submit" disabled={save.isPending}>
          Save the driver
        </Button>
        <Button onClick={onDone}>Close</Button>
        {stored && (
          <Button className="ml-auto" onClick={() => setAsking(true)}>
            Remove it
          </Button>
        )}
      </div>
    </form>
  );
}
