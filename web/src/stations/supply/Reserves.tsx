import type { SupplyReport } from "../../api/client";
import { amps, watts } from "../../ui/format";
import { Group } from "../Split";
import { Scroller } from "../../ui/Scroller";

/** What the chargers can give less what the vehicle takes, as a bar in each state. */
export function Reserves({ reserves }: { reserves: SupplyReport["reserves"] }) {
  const most = Math.max(1, ...reserves.map((each) => Math.max(each.available_a ?? 0, each.vehicle_a)));
  return (
    <Group title="Reserve: what is left for sound">
      <Scroller label="Reserve, to scroll">
        <table aria-label="Reserve" className="w-full">
          <thead className="text-soft text-sm [&_th]:pl-3 [&_th]:text-right [&_th]:font-normal">
            <tr>
              <th scope="col">
                <span className="sr-only">State</span>
              </th>
              <td />
              <th scope="col">charger</th>
              <th scope="col">car</th>
              <th scope="col">left</th>
              <th scope="col">at its pulley</th>
            </tr>
          </thead>
          <tbody className="[&_.figure]:whitespace-nowrap">
            {reserves.map((each) => (
              <tr key={each.state} className="border-rule border-b">
                <td className="w-44 py-1.5 max-lg:w-24">{each.state}</td>
                <td aria-hidden className="w-[34%] max-lg:w-[20%]">
                  <div className="bg-sunk relative h-5">
                    <div
                      className="absolute h-5"
                      style={{
                        width: `${(100 * (each.available_a ?? 0)) / most}%`,
                        background: "var(--copper-pale)",
                      }}
                    />
                    <div
                      className="absolute h-5 opacity-85"
                      style={{ width: `${(100 * each.vehicle_a) / most}%`, background: "var(--car-band)" }}
                    />
                  </div>
                </td>
                <td className="figure pl-3 text-right">
                  {each.available_a === null ? "unknown" : `${amps(each.available_a)} A`}
                </td>
                <td className="figure text-soft pl-3 text-right">−{amps(each.vehicle_a)} A</td>
                <td
                  className={`figure pl-3 text-right text-lg ${(each.reserve_a ?? 0) < 0 ? "text-vermilion" : ""}`}
                >
                  {each.reserve_a === null ? "measure it" : `${amps(each.reserve_a)} A`}
                </td>
                <td className="text-soft pl-3 text-right text-sm whitespace-nowrap">
                  {each.shaft_w ? `${watts(each.shaft_w)} W` : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scroller>
      <p className="text-soft mt-1 text-sm">
        Copper: what the chargers can give; grey: what the vehicle takes. Engine load is what the alternator
        takes at its pulley as it plays now.
      </p>
    </Group>
  );
}
