import type { WorkshopSettings, StockLine } from "../api/client";
import { CONDUCTORS } from "../stations/cable/words";
import { Button } from "../ui/Button";
import { LeftHead, Table } from "../ui/Table";
import { Input } from "../ui/Input";
import { RemoveButton } from "../ui/RemoveButton";
import { Select } from "../ui/Select";

interface Props {
  shop: WorkshopSettings;
  onChange: (shelf: StockLine[]) => void;
}

/** The cable at hand: only what is on the shelf is offered, at its price and with what a metre of it measures. */
export function Shelf({ shop, onChange }: Props) {
  const shelf = shop.shelf;
  const set = (at: number, part: Partial<StockLine>) =>
    onChange(shelf.map((line, i) => (i === at ? { ...line, ...part } : line)));
  return (
    <section aria-label="Shelf">
      <div className="mb-1 flex items-center justify-between gap-3">
        <h2>Cable on the shelf</h2>
        <Button
          onClick={() =>
            onChange([
              ...shelf,
              { size: shop.sizes === "awg" ? "4 AWG" : "25 mm²", conductor: "copper", price_per_m: null },
            ])
          }
        >
          Add a cable
        </Button>
      </div>
      <p className="text-soft mb-2 text-sm">
        {shelf.length === 0
          ? "Nothing listed: every usual size is offered, without prices."
          : "Only these sizes are offered when a cable is chosen."}
      </p>
      {shelf.length > 0 && (
        <Table
          label="Cable on the shelf"
          head={[
            "Size",
            <LeftHead key="metal">Conductor</LeftHead>,
            `Price a metre, ${shop.currency}`,
            "Measured, mΩ a metre",
            "",
          ]}
        >
          {shelf.map((line, i) => (
            <tr key={i}>
              <td>
                <Input
                  aria-label={`Size of cable ${i + 1}`}
                  className="figure w-28"
                  value={line.size}
                  onChange={(event) => set(i, { size: event.target.value })}
                />
              </td>
              <td className="text-left!">
                <Select
                  aria-label={`Metal of cable ${i + 1}`}
                  value={line.conductor}
                  onChange={(event) => set(i, { conductor: event.target.value as StockLine["conductor"] })}
                >
                  {CONDUCTORS.map(([key, words]) => (
                    <option key={key} value={key}>
                      {words}
                    </option>
                  ))}
                </Select>
              </td>
              <td>
                <Amount
                  label={`Price of cable ${i + 1}`}
                  value={line.price_per_m ?? null}
                  onChange={(price_per_m) => set(i, { price_per_m })}
                />
              </td>
              <td>
                <Amount
                  label={`Measured milliohms of cable ${i + 1}`}
                  value={line.measured_ohm_per_m == null ? null : line.measured_ohm_per_m * 1000}
                  onChange={(milli) => set(i, { measured_ohm_per_m: milli === null ? null : milli / 1000 })}
                />
              </td>
              <td>
                <RemoveButton
                  label={`Take cable ${i + 1} off the shelf`}
                  onClick={() => onChange(shelf.filter((_, n) => n !== i))}
                />
              </td>
            </tr>
          ))}
        </Table>
      )}
    </section>
  );
}

/** A number that may be missing. */
function Amount({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
}) {
  return (
    <Input
      aria-label={label}
      type="number"
      step="any"
      min={0}
      className="figure w-28 text-right"
      value={value === null ? "" : Number(value.toPrecision(6))}
      placeholder="–"
      onChange={(event) => onChange(event.target.value === "" ? null : Number(event.target.value))}
    />
  );
}
