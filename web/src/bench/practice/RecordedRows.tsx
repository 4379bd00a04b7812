import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, data, type AmplifierLine } from "../../api/client";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed } from "../../ui/format";
import { today } from "../../ui/moments";
import { RemoveButton } from "../../ui/RemoveButton";
import { Table } from "../../ui/Table";
import type { Row } from "./recorded";

interface Props {
  rows: Row[];
  amplifier: AmplifierLine | null;
  onChange: (rows: Row[]) => void;
}

/** What was recorded, with what follows from it; kept as a sheet of the amplifier. */
export function RecordedRows({ rows, amplifier, onChange }: Props) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async (id: number) => {
      const params = { path: { amplifier_id: id } };
      const body = { measured_on: today(), note: "practice bench", rows };
      return data(await api.POST("/api/v1/amplifiers/{amplifier_id}/sheets", { params, body }));
    },
    onSuccess: () => {
      onChange([]);
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
      void client.invalidateQueries({ queryKey: ["amplifier"] });
    },
  });
  if (rows.length === 0)
    return save.isSuccess && amplifier ? (
      <p role="status" className="text-moss mt-3">
        ✓ Kept as a sheet.{" "}
        <Link className="text-ink underline underline-offset-4" to={`/bench/${amplifier.id}`}>
          Open {amplifier.name}
        </Link>
      </p>
    ) : null;
  return (
    <>
      <Table label="Recorded" head={["Load", "At", "Supply", "Amps", "Watts", "Efficiency", "Sink", ""]}>
        {rows.map((row, i) => (
          <tr key={i}>
            <td className="figure">{row.load_ohm} Ω</td>
            <td>{row.criterion === "thd1" ? "1 %" : "clipping"}</td>
            <td className="figure">{row.supply_v ?? "–"} V</td>
            <td className="figure">{row.supply_a ?? "over"} A</td>
            <td className="figure text-copper">{row.power_w ?? "protect"} W</td>
            <td className="figure">{efficiency(row)}</td>
            <td className="figure">{row.heatsink_c} °C</td>
            <td>
              <RemoveButton
                label={`Remove recording ${i + 1}`}
                onClick={() => onChange(rows.filter((_, k) => k !== i))}
              />
            </td>
          </tr>
        ))}
      </Table>
      {amplifier && (
        <Button strong className="mt-2" disabled={save.isPending} onClick={() => save.mutate(amplifier.id)}>
          Keep as a sheet of {amplifier.name}
        </Button>
      )}
      {save.error && <Complaint>{save.error.message}</Complaint>}
    </>
  );
}

/** Watts out over watts in, as the meters had them. */
function efficiency({ supply_v: volts, supply_a: amps, power_w: watts }: Row): string {
  const taken = Number(volts) * Number(amps);
  return watts && taken > 0 ? `${fixed((100 * Number(watts)) / taken, 0)} %` : "–";
}
