import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { useNavigate } from "react-router";

import { api, Problem, type AmplifierOut } from "../../api/client";
import { BroughtBack } from "../../drafts/BroughtBack";
import { SaveProblem } from "../../drafts/SaveProblem";
import { useKept } from "../../drafts/useKept";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { readAmplifier, useSaveAmplifier } from "../useAmplifier";
import { draftOf, GROUPS, recordOf, type Field } from "./fields";
import { Select } from "../../ui/Select";

/** Everything known of an amplifier besides its readings; all of it optional but the name. */
export function RecordView({ amplifier }: { amplifier: AmplifierOut }) {
  const [stored] = useState(() => ({ version: amplifier.version, document: draftOf(amplifier.record) }));
  const kept = useKept(`record:${amplifier.id}`, stored);
  const draft = kept.value;
  const save = useSaveAmplifier(amplifier);
  const navigate = useNavigate();
  const wrong =
    save.error instanceof Problem ? save.error.field.replace(/^record\./, "").split(".")[0] : null;
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: async () => {
      const params = { path: { amplifier_id: amplifier.id } };
      await api.DELETE("/api/v1/amplifiers/{amplifier_id}", { params });
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
      void navigate("/bench");
    },
  });
  const takeOff = () => {
    if (window.confirm(`Take ${amplifier.record.name} and all its sheets off the bench?`)) remove.mutate();
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(
          { record: recordOf(draft, amplifier.record), version: kept.version },
          { onSuccess: (answer) => kept.saved(draft, answer.version) },
        );
      }}
    >
      <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
      {amplifier.one_output && (
        <p className="mb-3 text-sm">
          ▪ Its speaker terminals are the same output: drivers on both are in parallel.
        </p>
      )}
      <div className="grid grid-cols-2 gap-x-10 max-md:grid-cols-1">
        {GROUPS.map(([title, fields]) => (
          <fieldset key={title} className="mb-5">
            <legend className="mb-1 font-bold">{title}</legend>
            {fields.map((field) => (
              <FieldRow
                key={field.key}
                field={field}
                text={draft[field.key] ?? ""}
                wrong={wrong === field.key ? (save.error?.message ?? null) : null}
                onText={(text) => kept.set({ ...draft, [field.key]: text })}
              />
            ))}
          </fieldset>
        ))}
      </div>
      <SaveProblem
        error={save.error}
        base={kept.base}
        mine={draft}
        read={async () => {
          const { version, record } = await readAmplifier(amplifier.id);
          return { version, document: draftOf(record) };
        }}
        onSettle={(settled, version) => {
          kept.settle(settled, version);
          save.reset();
        }}
      />
      {remove.error && <Complaint>{remove.error.message}</Complaint>}
      <div className="mt-2 flex gap-3">
        <Button strong type="submit" disabled={save.isPending}>
          {save.isSuccess && !save.isPending ? "Save again" : "Save the record"}
        </Button>
        {save.isSuccess && !kept.changed && <span className="text-moss self-center text-sm">✓ saved</span>}
        <Button className="ml-auto" disabled={remove.isPending} onClick={takeOff}>
          Take off the bench
        </Button>
      </div>
    </form>
  );
}

interface RowProps {
  field: Field;
  text: string;
  wrong: string | null;
  onText: (text: string) => void;
}

function FieldRow({ field, text, wrong, onText }: RowProps) {
  const id = useId();
  const look = `border-rule bg-sheet h-11 rounded-sm border px-2 ${wrong ? "border-vermilion" : ""}`;
  const shared = { id, value: text, "aria-invalid": wrong !== null };
  return (
    <div className="border-rule flex min-h-12 items-center justify-between gap-3 border-b py-0.5">
      <label htmlFor={id}>
        {field.words}
        {field.unit && <span className="text-soft text-sm">, {field.unit}</span>}
      </label>
      {field.kind === "choice" || field.kind === "yesno" ? (
        <Select {...shared} className={`${look} w-44`} onChange={(event) => onText(event.target.value)}>
          <option value="">not stated</option>
          {(field.choices ?? [["yes", "yes"] as const, ["no", "no"] as const]).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </Select>
      ) : field.kind === "words" ? (
        <Words field={field} text={text} onText={onText} />
      ) : field.kind === "long" ? (
        <textarea
          {...shared}
          rows={2}
          className={`${look} h-auto w-72 py-1`}
          onChange={(event) => onText(event.target.value)}
        />
      ) : (
        <input
          {...shared}
          type={field.kind === "date" ? "date" : "text"}
          className={`${look} w-44 ${["text", "date"].includes(field.kind) ? "" : "figure text-right"}`}
          onChange={(event) => onText(event.target.value)}
        />
      )}
    </div>
  );
}

/** Some of a few words, each a box to tick. */
function Words({ field, text, onText }: Omit<RowProps, "wrong">) {
  const chosen = text.split(/\s+/).filter(Boolean);
  return (
    <span className="flex gap-4">
      {field.choices?.map(([key, words]) => (
        <label key={key} className="flex min-h-11 items-center gap-1.5">
          <input
            type="checkbox"
            className="size-5"
            checked={chosen.includes(key)}
            onChange={(event) =>
              onText(
                [...chosen.filter((each) => each !== key), ...(event.target.checked ? [key] : [])].join(" "),
              )
            }
          />
          {words}
        </label>
      ))}
    </span>
  );
}
