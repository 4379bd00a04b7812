import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";

import { api, data, fileForm } from "../api/client";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { plain, watts } from "../ui/format";
import { Table } from "../ui/Table";
import { CRITERIA } from "./criteria";

/** The bench book: every amplifier of the workshop. */
export function BenchPage() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const list = useQuery({
    queryKey: ["amplifiers"],
    queryFn: async () => data(await api.GET("/api/amplifiers")),
  });
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/amplifiers/import", fileForm(file))),
    onSuccess: (amplifier) => {
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
      client.setQueryData(["amplifier", amplifier.id], amplifier);
      void navigate(`/bench/${amplifier.id}`);
    },
  });
  return (
    <div className="mx-auto max-w-5xl px-8 py-6">
      <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
        <h1 className="text-2xl font-bold">Bench</h1>
        <FileButton
          label="Import a bench sheet"
          accept=".csv,text/csv"
          busy={bring.isPending}
          onFile={(file) => bring.mutate(file)}
        />
      </div>
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      <Table
        label="Amplifiers"
        head={[
          "Amplifier",
          "Class",
          "Readings",
          "Criteria",
          "Lowest load read",
          "At 1 % THD, 14.4 V",
          "Price",
        ]}
      >
        {list.data?.map((each) => (
          <tr key={each.id} className="hover:bg-sheet">
            <td>
              <Link
                to={`/bench/${each.id}`}
                className="inline-flex min-h-11 items-center text-lg font-bold underline-offset-4 hover:underline"
              >
                {each.name}
              </Link>
            </td>
            <td>{each.amplifier_class}</td>
            <td className="figure">{each.runs}</td>
            <td>{each.criteria.map((key) => CRITERIA[key].words).join(", ")}</td>
            <td>{each.lowest_load_ohm === null ? "–" : `${plain(each.lowest_load_ohm)} Ω`}</td>
            <td className="text-copper">
              {each.rated_w !== null && each.rated_ohm !== null ? (
                <>
                  <span className="figure text-lg">{watts(each.rated_w)}</span> W at {plain(each.rated_ohm)} Ω
                </>
              ) : (
                "–"
              )}
            </td>
            <td>{each.price === null ? "–" : `${plain(each.price)} ${each.currency ?? ""}`}</td>
          </tr>
        ))}
      </Table>
      {list.data?.length === 0 && (
        <p className="text-soft mt-6">
          No amplifier yet. Import a bench sheet: a CSV file with load_ohm, criterion and power_w at least.
        </p>
      )}
    </div>
  );
}
