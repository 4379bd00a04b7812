import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, Problem, type PartOut } from "../api/client";
import { BroughtBack } from "../drafts/BroughtBack";
import { useKept } from "../drafts/useKept";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";
import { SelectBox } from "../ui/SelectBox";
import { draftOf, fieldsOf, partOf, type Draft, type Part, type PartField } from "./partFields";
import { KINDS } from "./partWords";

/** One part that plans choose from, typed in: what its kind needs; what was typed stays until it is saved. */
export function PartForm({ stored, onDone }: { stored?: PartOut; onDone: () => void }) {
  const client = useQueryClient();
  const [first] = useState(() => ({ version: stored?.version ?? 0, document: draftOf(stored?.part) }));
  const kept = useKept<Draft>(`part:${stored?.id ?? "new"}`, first);
  const draft = kept.value;
  const save = useMutation({
    mutationFn: async (part: Part) =>
      stored
        ? data(
            await api.PUT("/api/v1/parts/{part_id}", {
              params: { path: { part_id: stored.id } },
              body: { version: kept.version, part },
            }),
          )
        : data(await api.POST("/api/v1/parts", { body: { part } })),
    onSuccess: (answer) => {
      kept.saved(draft, answer.version);
      kept.throwAway();
      void client.invalidateQueries({ queryKey: ["parts"] });
      onDone();
    },
  });
  const wrong = save.error instanceof Problem ? save.error.field.replace(/^part\./, "") : null;
  return (
    <form
      aria-label={stored ? stored.part.name : "New part"}
      className="border-ink bg-sheet mb-5 border p-5"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(partOf(draft, stored?.part));
      }}
    >
      <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
      <div className="grid grid-cols-4 gap-x-6 gap-y-2 max-md:grid-cols-2">
        <SelectBox
          label="Kind"
          className="w-full"
          value={draft.kind}
          options={KINDS}
          onChange={(kind) => kind && kept.set({ ...draft, kind })}
        />
        {fieldsOf(draft.kind).map((field) => (
          <Asked
            key={field.key}
            field={field}
            value={draft[field.key] ?? ""}
            wrong={wrong === field.key}
            onChange={(text) => kept.set({ ...draft, [field.key]: text })}
          />
        ))}
      </div>
      {save.error && <Complaint>{save.error.message}</Complaint>}
      <div className="mt-4 flex gap-2">
        <Button strong type="submit" disabled={save.isPending}>
          Save the part
        </Button>
        <Button onClick={onDone}>Close</Button>
      </div>
    </form>
  );
}

interface AskedProps {
  field: PartField;
  value: string;
  wrong: boolean;
  onChange: (text: string) => void;
}

function Asked({ field, value, wrong, onChange }: AskedProps) {
  const { words, unit, needed = false, choices, text } = field;
  if (choices)
    return (
      <SelectBox
        label={words}
        className="w-full"
        value={value}
        options={choices}
        none="not said"
        needed={needed}
        onChange={onChange}
      />
    );
  return (
    <label className="text-soft text-sm">
      {words}
      {unit && `, ${unit}`}
      {needed && <span aria-hidden> *</span>}
      <Input
        className={`block w-full ${text ? "" : "figure text-right"}`}
        inputMode={text ? "text" : "decimal"}
        wrong={wrong}
        required={needed}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}
