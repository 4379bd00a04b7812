import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, data, fileForm, type AmplifierRecord } from "../api/client";
import { useKeys } from "../job/useKeys";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { fixed, plain, watts } from "../ui/format";
import { LeftHead, Table } from "../ui/Table";
import { BenchNav } from "./BenchNav";

/** The amplifiers of the workshop. */
export function useAmplifiers() {
  return useQuery({ queryKey: ["amplifiers"], queryFn: async () => data(await api.GET("/api/amplifiers")) });
}

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
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/amplifiers/import", fileForm(file))),
    ...opened("curves"),
  });
  const create = useMutation({
    mutationFn: async (words: string) =>
      data(await api.POST("/api/amplifiers", { body: { record: { name: words } as AmplifierRecord } })),
    ...opened("readings"),
  });
  const [called, setCalled] = useState("");
  useKeys(useMemo(() => ({ n: () => name.current?.focus() }), []));
  const problem = bring.error ?? create.error ?? list.error;
  return (
    <>
      <BenchNav />
      <div className="mx-auto max-w-6xl px-8 py-5">
        <div className="mb-4 flex flex-wrap items-center justify-between gap-3">
          <h1 className="text-2xl font-bold">Bench</h1>
          <div className="flex flex-wrap gap-2">
            <form
              className="flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (called.trim()) create.mutate(called.trim());
              }}
            >
              <input
                ref={name}
                aria-label="Name of a new amplifier"
                placeholder="name of a new amplifier"
                className="border-rule bg-sheet h-11 w-60 rounded-sm border px-3"
                value={called}
                onChange={(event) => setCalled(event.target.value)}
              />
              <Button type="submit" disabled={!called.trim() || create.isPending}>
                Put on the bench
              </Button>
            </form>
            <FileButton
              label="Import a bench sheet"
              accept=".csv,text/csv"
              busy={bring.isPending}
              onFile={(file) => bring.mutate(file)}
            />
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
            "Price of a watt",
            "Audit",
            <LeftHead key="claims">Against its claims</LeftHead>,
          ]}
        >
          {list.data?.map((each) => (
            <tr key={each.id} className="hover:bg-sheet">
              <td>
                <Link
                  to={`/bench/${each.id}/curves`}
                  className="inline-flex min-h-11 items-center text-lg font-bold whitespace-nowrap underline-offset-4 hover:underline"
                >
                  {each.name}
                </Link>
              </td>
              <td>{each.amplifier_class}</td>
              <td className="figure">{each.runs || "–"}</td>
              <td className="text-copper whitespace-nowrap">
                {each.runs > 0 && each.rated_w !== null && each.rated_ohm !== null ? (
                  <>
                    {each.channels > 1 && `${each.channels} × `}
                    <span className="figure text-lg">{watts(each.rated_w)}</span> W at {plain(each.rated_ohm)}{" "}
                    Ω
                  </>
                ) : (
                  "–"
                )}
              </td>
              <td className="whitespace-nowrap">
                {each.price_per_watt === null
                  ? "–"
                  : `${fixed(each.price_per_watt, 2)} ${each.currency ?? ""}`}
              </td>
              <td className="whitespace-nowrap">
                {each.runs === 0 ? (
                  "–"
                ) : each.findings > 0 ? (
                  <span className="text-ochre">▲ {each.findings}</span>
                ) : (
                  <span className="text-moss">✓ none</span>
                )}
              </td>
              <td className="text-left! text-sm">{each.verdict}</td>
            </tr>
          ))}
        </Table>
        {list.data?.length === 0 && (
          <p className="text-soft mt-6">
            No amplifier yet. Type a name to enter readings by hand, or import a bench sheet: a CSV file with
            load_ohm, criterion and power_w at least.
          </p>
        )}
      </div>
    </>
  );
}
