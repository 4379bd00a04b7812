import { useQuery } from "@tanstack/react-query";

import { api, data, type Driver } from "../../api/client";
import { valueOf } from "../../api/quantity";
import { MOST_CHOICES } from "../../bench/useAmplifiers";
import { useWork } from "../../job/WorkContext";
import { plain } from "../../ui/format";
import { Select } from "../../ui/Select";
import { Group } from "../Split";

/** The driver of a load, from the parts. */
export function DriverChoice({ index }: { index: number }) {
  const { job, change } = useWork();
  const drivers = useQuery({
    queryKey: ["drivers", "choices"],
    queryFn: async () =>
      data(await api.GET("/api/v1/parts/drivers", { params: { query: { limit: MOST_CHOICES } } })).items,
  });
  const at = `amplifiers.${index}.load` as const;
  const load = job.amplifiers?.[index]?.load;
  const driver = load?.driver;
  const choose = (id: string) => {
    const found = drivers.data?.find((each) => String(each.id) === id)?.opened?.driver;
    change(at, { ...load, ...(found ? withDriver(found) : { driver: null }) });
  };
  return (
    <Group title="Driver">
      <Select
        aria-label="Driver"
        className="w-full"
        value={driver ? "kept" : ""}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">not entered</option>
        {driver && <option value="kept">{driver.name ?? "a driver without a name"}</option>}
        {drivers.data
          ?.filter((each) => each.opened && each.name !== driver?.name)
          .map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
      </Select>
      {driver && (
        <p className="text-soft mt-1 text-sm">
          f<sub>s</sub> {plain(valueOf(driver.fs_hz) ?? 0)} Hz, Q<sub>es</sub>{" "}
          {plain(valueOf(driver.qes) ?? 0)}, V<sub>as</sub> {plain(valueOf(driver.vas_l) ?? 0)} l, R
          <sub>e</sub> {plain(valueOf(driver.re_ohm) ?? 0)} Ω a coil
        </p>
      )}
    </Group>
  );
}

/** A driver from the parts brings its coils along. */
function withDriver(driver: Driver) {
  return {
    driver,
    wiring: null,
    ...(driver.coils ? { coils_per_driver: driver.coils } : {}),
    ...(driver.coil_ohm ? { coil_ohm: driver.coil_ohm } : {}),
  };
}
