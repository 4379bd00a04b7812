import { useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { QuantityField } from "../../job/QuantityField";
import { SystemVolts } from "../../job/SystemVolts";
import { TextField } from "../../job/TextField";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Group } from "../Split";
import { Select } from "../../ui/Select";

/** What the vehicle itself takes: a template of usual loads to start from, each to be corrected by a clamp. */
export function VehicleLoads() {
  const { job, change } = useWork();
  const templates = useQuery({
    queryKey: ["vehicle-templates"],
    queryFn: async () => data(await api.GET("/api/v1/vehicle-templates")),
    staleTime: Infinity,
  });
  const loads = job.vehicle.loads ?? [];
  const take = (name: string) => {
    const found = templates.data?.find((each) => each.name === name);
    if (found) change("vehicle", { ...job.vehicle, template: name, loads: found.loads });
  };
  return (
    <Group title="The vehicle itself">
      <SystemVolts />
      <label className="text-soft block text-sm">
        Usual loads of
        <Select
          className="block w-full"
          value={job.vehicle.template ?? ""}
          onChange={(event) => take(event.target.value)}
        >
          <option value="">entered here</option>
          {templates.data?.map((each) => (
            <option key={each.name} value={each.name}>
              {each.words}
            </option>
          ))}
        </Select>
      </label>
      {loads.map((load, i) => (
        <details key={i} className="border-rule border-b">
          <summary className="min-h-11 cursor-pointer py-2.5">{load.name}</summary>
          <TextField path={`vehicle.loads.${i}.name`} label="Name" hint="as the reports call it" />
          <QuantityField path={`vehicle.loads.${i}.off_a`} label="Parked" unit="A" />
          <QuantityField path={`vehicle.loads.${i}.acc_a`} label="Radio on" unit="A" empty="as parked" />
          <QuantityField path={`vehicle.loads.${i}.idle_a`} label="At idle" unit="A" />
          <QuantityField path={`vehicle.loads.${i}.cruise_a`} label="At cruise" unit="A" />
          <QuantityField
            path={`vehicle.loads.${i}.all_on_a`}
            label="Everything on"
            unit="A"
            empty="as cruise"
          />
          <Button
            className="my-2"
            onClick={() =>
              change(
                "vehicle.loads",
                loads.filter((_, n) => n !== i),
              )
            }
          >
            Remove {load.name}
          </Button>
        </details>
      ))}
      <Button
        className="mt-2"
        wide
        onClick={() =>
          change("vehicle.loads", [...loads, { name: `Load ${loads.length + 1}`, idle_a: 5, cruise_a: 5 }])
        }
      >
        Add a load
      </Button>
    </Group>
  );
}
