import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, data, type AmplifierLine, type AmplifierRecord } from "../api/client";
import { useKeys } from "../job/useKeys";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { fixed, plain, watts } from "../ui/format";
import { ListState } from "../ui/ListState";
import { MoreRows } from "../ui/MoreRows";
import { LeftHead, Table } from "../ui/Table";
import { BenchNav } from "./BenchNav";
import { ImportSheet } from "./ImportSheet";
import { useAmplifiers } from "./useAmplifiers";
import { Input } from "../ui/Input";

/** The bench book: every amplifier of the workshop. */
export function BenchPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const list = useAmplifiers();
  const name = useRef<HTMLInputElement>(null);
  const opened = (view: string) => ({
    onSuccess: (amplifier: { id: number }) => {
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
      void navigate(`/bench/${amplifier.id}/${view}`);
    },
  });
  const create = useMutation({
    mutationFn: async (words: string) =>
      data(await api.POST("/api/v1/amplifiers", { body: { record: { name: words } as AmplifierRecord } })),
    ...opened("readings"),
  });
  const [called, setCalled] = useState("");
  useKeys({ n: () => name.current?.focus() });
  const problem = create.error;
  return (
    <>
      <BenchNav />
      <div className="mx-auto max-w-6xl px-8 py-5">
        <div className="mb-4 flex flex-wrap items-center justify-between gap-3">
          <h1 className="text-2xl font-bold">Bench</h1>
          <div className="flex flex-wrap gap-2">
            <form
              className="flex flex-wrap gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (called.trim()) create.mutate(called.trim());
              }}
            >
              <Input
                ref={name}
                aria-label="Name of a new amplifier"
                placeholder="name of a new amplifier"
                className="w-60"
                value={called}
                onChange={(event) => setCalled(event.target.value)}
              />
              <Button type="submit" disabled={!called.trim() || create.isPending}>
                Put on the bench
              </Button>
            </form>
            <ImportSheet />
          </div>
        </div>
        {problem && <Complaint>{problem.message}</Complaint>}
        <Table
          label="Amplifiers"
          head={[
            "Amplifier",
            "Class",
            "Readings",
            "1 % THD, 14.4 V",
            "Price per watt",
            "Audit",
            <LeftHead key="claims">Against its claims</LeftHead>,
          ]}
        >
          {list.rows?.map((each) => (
            <Row key={each.id} each={each} />
          ))}
        </Table>
        <MoreRows shown={list.rows?.length ?? 0} count={list.count} more={list.more} />
        <ListState what="amplifiers" rows={list.rows} error={list.error} onAgain={list.again}>
          <p>
            No amplifier yet. Type a name above to enter readings by hand, or import a bench sheet: a CSV file
            with load, criterion and watts at least.
          </p>
        </ListState>
      </div>
    </>
  );
}

function Row({ each }: { each: AmplifierLine }) {
  return (
    <tr className="hover:bg-sheet">
      <td>
        <Link
          to={`/bench/${each.id}/curves`}
          className="inline-flex min-h-11 items-center text-lg font-bold whitespace-nowrap underline-offset-4 hover:underline"
        >
          {each.name}
        </Link>
      </td>
      {each.summary ? (
        <Summary of={each.summary} />
      ) : (
        <td colSpan={6} className="text-ochre text-left! text-sm">
          ▲ {each.problem}
        </td>
      )}
    </tr>
  );
}

/** What was measured of it: columns after the name. */
function Summary({ of }: { of: NonNullable<AmplifierLine["summary"]> }) {
  return (
    <>
      <td>{of.amplifier_class}</td>
      <td className="figure">{of.runs || "–"}</td>
      <td className="text-copper whitespace-nowrap">
        {of.runs > 0 && of.rated_w !== null && of.rated_ohm !== null ? (
          <>
            {of.channels > 1 && `${of.channels} × `}
            <span className="figure text-lg">{watts(of.rated_w)}</span> W at {plain(of.rated_ohm)} Ω
          </>
        ) : (
          "–"
        )}
      </td>
      <td className="whitespace-nowrap">
        {of.price_per_watt === null ? "–" : `${fixed(of.price_per_watt, 2)} ${of.currency ?? ""}`}
      </td>
      <td className="whitespace-nowrap">
        {of.runs === 0 ? (
          "–"
        ) : of.findings > 0 ? (
          <span className="text-ochre">▲ {of.findings}</span>
        ) : (
          <span className="text-moss">✓ none</span>
        )}
      </td>
      <td className="min-w-64 text-left! text-sm">{of.verdict}</td>
    </>
  );
}
