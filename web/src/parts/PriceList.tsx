import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, fileForm, type PartOut } from "../api/client";
import { usePages } from "../api/usePages";
import { AskRemove } from "../ui/AskRemove";
import { Complaint } from "../ui/Complaint";
import { ListState } from "../ui/ListState";
import { MoreRows } from "../ui/MoreRows";
import { LeftHead, Table } from "../ui/Table";
import { Button } from "../ui/Button";
import { ListTools } from "./ListTools";
import { PartForm } from "./PartForm";
import { KINDS, partWords, STOCK } from "./partWords";
import { Input } from "../ui/Input";
import { Select } from "../ui/Select";
import { RemoveButton } from "../ui/RemoveButton";
import { full, toNumber } from "../ui/number";

type Kind = PartOut["part"]["kind"];

/** What plans choose from: parts with their prices, in and out as CSV; a price is changed where it stands. */
export function PriceList() {
  const client = useQueryClient();
  const [kind, setKind] = useState<Kind | "">("");
  const list = usePages(["parts", kind], async (offset) =>
    data(await api.GET("/api/v1/parts", { params: { query: { offset, ...(kind ? { kind } : {}) } } })),
  );
  const again = () => void client.invalidateQueries({ queryKey: ["parts"] });
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/v1/parts/import", fileForm(file))),
    onSuccess: again,
  });
  const [form, setForm] = useState<PartOut | "new" | null>(null);
  return (
    <section aria-label="Price list">
      <ListTools exportAddress="/api/v1/parts/csv" importLabel="Import a price list" bring={bring}>
        <Button strong onClick={() => setForm("new")}>
          New part
        </Button>
        <label className="text-soft text-sm">
          Kind{" "}
          <Select value={kind} onChange={(event) => setKind(event.target.value as Kind | "")}>
            <option value="">all</option>
            {KINDS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </Select>
        </label>
      </ListTools>
      {form && (
        <PartForm
          key={form === "new" ? "new" : form.id}
          {...(form !== "new" && { stored: form })}
          onDone={() => setForm(null)}
        />
      )}
      <Table
        label="Price list"
        head={[
          "Part",
          "Price",
          "Hours",
          <LeftHead key="kind">Kind</LeftHead>,
          <LeftHead key="what">What it is</LeftHead>,
          <LeftHead key="stock">Stock</LeftHead>,
          "",
        ]}
      >
        {list.rows?.map((each) => (
          <Row
            key={`${each.id} ${each.version}`}
            each={each}
            onOpen={() => setForm(each)}
            onChanged={again}
          />
        ))}
      </Table>
      <MoreRows shown={list.rows?.length ?? 0} count={list.count} more={list.more} />
      <ListState what="parts" rows={list.rows} error={list.error} onAgain={list.again}>
        <p className="mb-2">
          No part here yet. Plans choose from this list: enter what you fit, with its price, or import a list
          in CSV, a row a part, with kind, name and price.
        </p>
        <Button strong onClick={() => setForm("new")}>
          Enter a part
        </Button>
      </ListState>
    </section>
  );
}

function Row({ each, onOpen, onChanged }: { each: PartOut; onOpen: () => void; onChanged: () => void }) {
  const { part } = each;
  const [text, setText] = useState(part.price == null ? "" : full(part.price));
  const save = useMutation({
    mutationFn: async (price: number | null) =>
      data(
        await api.PUT("/api/v1/parts/{part_id}", {
          params: { path: { part_id: each.id } },
          body: { version: each.version, part: { ...part, price } },
        }),
      ),
    onSuccess: onChanged,
  });
  const [asking, setAsking] = useState(false);
  const remove = useMutation({
    mutationFn: async () =>
      void (await api.DELETE("/api/v1/parts/{part_id}", { params: { path: { part_id: each.id } } })),
    onSuccess: onChanged,
  });
  const price = text.trim() === "" ? null : toNumber(text);
  const commit = () => {
    if (price !== (part.price ?? null) && (price === null || Number.isFinite(price))) save.mutate(price);
  };
  return (
    <tr className="hover:bg-sheet">
      <td className="min-w-36">
        <button className="min-h-11 text-left font-bold underline underline-offset-4" onClick={onOpen}>
          {part.name}
        </button>
        {save.error && <Complaint>{save.error.message}</Complaint>}
      </td>
      <td>
        <Input
          aria-label={`Price of ${part.name}`}
          inputMode="decimal"
          placeholder="missing"
          className="figure w-24 text-right"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === "Enter" && commit()}
        />
      </td>
      <td className="figure">{part.hours ?? 0}</td>
      <td className="text-left!">{KINDS.find(([key]) => key === part.kind)?.[1]}</td>
      <td className="min-w-56 text-left!">{partWords(part)}</td>
      <td className="text-left!">{STOCK[part.stock ?? "in_stock"]}</td>
      <td>
        <RemoveButton label={`Remove ${part.name}`} onClick={() => setAsking(true)} />
        <AskRemove
          what={asking ? part.name : null}
          busy={remove.isPending}
          error={remove.error}
          onRemove={() => remove.mutate()}
          onKeep={() => setAsking(false)}
        />
      </td>
    </tr>
  );
}
