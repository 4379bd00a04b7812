import type { LoadResult } from "../../api/client";
import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { fixed, watts } from "../../ui/format";
import { Table } from "../../ui/Table";

/** What warm coils do to the ohms and the watts at the tone. */
export function HeatView({ index, load }: { index: number; load: LoadResult }) {
  const { change } = useWork();
  const at = `amplifiers.${index}.load` as const;
  const use = (rise: number) =>
    change(`${at}.coil_temperature_rise_k`, { value: Math.round(rise), origin: "typed" });
  return (
    <>
      <h2>Warm coils, at the tone and these volts</h2>
      <Table
        label="Warm coils"
        head={["Coil warmer by", "In the box", "True watts", "Against cold coils", ""]}
      >
        {load.heated.map((row) => (
          <tr key={row.rise_k} className={row.settled ? "bg-sunk font-bold" : ""}>
            <td className="figure">
              {fixed(row.rise_k, 0)} K {row.settled && <span className="font-sans">settled</span>}
            </td>
            <td className="figure">{fixed(row.impedance_ohm, 2)} Ω</td>
            <td className="figure text-copper">{watts(row.watts)} W</td>
            <td className="figure">{fixed(row.loss_db, 2)} dB</td>
            <td>
              <Button onClick={() => use(row.rise_k)}>Use</Button>
            </td>
          </tr>
        ))}
      </Table>
      <p className="text-soft mt-2 text-sm">
        Copper gains 0.393 % of its resistance a kelvin (IEC 60028). Near resonance much of the impedance is
        motion, not coil, so heat costs less there than the coil alone would say. Without a model of driver
        and box all of the coil&rsquo;s resistance is added: more than it can be.
      </p>
      <div className="mt-3 max-w-sm">
        <QuantityField path={`${at}.coil_k_per_w`} label="Warms up by" unit="K/W" empty="unknown" />
        <p className="text-soft text-sm">
          Kelvin for each watt in a driver&rsquo;s coil, once settled; 0.2 to 1 is usual.
        </p>
      </div>
    </>
  );
}
