import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { useWork } from "../job/WorkContext";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { NumberBox } from "../ui/NumberBox";
import { LeftHead, Table } from "../ui/Table";
import { Group } from "./Split";

const SIDES = ["Length", "Width", "Height"] as const;

/** The space at hand, and which amplifiers of the bench fit it, one or two, lying or standing. */
export function RoomForIt() {
  const { job, change } = useWork();
  const space = job.vehicle.space_mm;
  const fits = useQuery({
    queryKey: ["room", space],
    queryFn: async () =>
      data(await api.POST("/api/v1/mounting-options", { body: { space_mm: space ?? [] } })),
    enabled: space?.length === 3,
    placeholderData: keepPreviousData,
  });
  if (!space)
    return (
      <Group title="Room for it">
        <Button onClick={() => change("vehicle.space_mm", [600, 300, 120])}>Enter the space at hand</Button>
      </Group>
    );
  return (
    <Group
      title="Room for it"
      aside={<Button onClick={() => change("vehicle.space_mm", null)}>Leave it out</Button>}
    >
      <div className="mb-2 flex flex-wrap gap-3">
        {SIDES.map((side, i) => (
          <NumberBox
            key={side}
            label={side}
            unit="mm"
            value={space[i] ?? 0}
            onChange={(value) =>
              change(
                "vehicle.space_mm",
                SIDES.map((_, n) => (n === i ? value : (space[n] ?? 100))),
              )
            }
          />
        ))}
      </div>
      {fits.error && <Complaint>{fits.error.message}</Complaint>}
      <Table label="What fits" head={["Amplifier", "Size", <LeftHead key="fits">Fits</LeftHead>]}>
        {fits.data?.map((each) => (
          <tr key={each.id}>
            <td>{each.name}</td>
            <td className="figure">{each.size_mm ? `${each.size_mm.join(" × ")} mm` : "–"}</td>
            <td className="text-left! text-sm">
              {each.ways === null ? (
                <span className="text-soft">size not on record</span>
              ) : each.ways.length > 0 ? (
                <span className="text-moss">✓ {each.ways.join("; ")}</span>
              ) : (
                <span className="text-ochre">▲ does not fit</span>
              )}
            </td>
          </tr>
        ))}
      </Table>
      <p className="text-soft mt-1 text-sm">
        Plain boxes: leave room for plugs and for the air that its maker asks for.
      </p>
    </Group>
  );
}
