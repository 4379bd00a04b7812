import type { BasisChoices } from "../../api/client";
import { money, sizeWords, times } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { fixed, watts } from "../../ui/format";
import { LeftHead, Table } from "../../ui/Table";

/** What the pick and its neighbours change against the cable as it is: volts, watts and decibels, each forecast. */
export function Steps({ bases }: { bases: BasisChoices[] }) {
  const shop = useShop();
  return (
    <>
      {bases.map(({ basis, steps }) => (
        <div key={basis.programme} className="mt-3">
          <p className="text-sm">
            <b>For {basis.words}</b>
            <span className="text-soft"> {flows(basis)}</span>
          </p>
          {basis.ground_first && <p className="text-ochre mb-1 text-sm">▲ {basis.ground_first}</p>}
          {basis.why && (
            <p className="text-ochre text-sm">
              ▲ Nothing passes: {basis.why}. Use more runs, a shorter or better ground return, or allow more
              drop.
            </p>
          )}
          {steps.length > 0 && (
            <Table
              label={`Steps, ${basis.words}`}
              head={[
                "Against the cable as it is",
                "Size",
                "Terminal",
                "Delivered",
                "Level",
                "Lost in it",
                <LeftHead key="w">{""}</LeftHead>,
              ]}
            >
              {steps.map((step) => (
                <tr key={step.what}>
                  <td>{step.what}</td>
                  <td className="whitespace-nowrap">
                    {times(step.pick.runs, sizeWords(step.pick, shop)[0])}
                  </td>
                  <td className="figure text-teal">{signed(step.volts, 2)} V</td>
                  <td className="figure">{signedWatts(step.delivered_w)} W</td>
                  <td className="figure">{signed(step.db, 2)} dB</td>
                  <td className="figure">{signed(step.lost_w, 1)} W</td>
                  <td className="text-soft text-left! text-sm">
                    {step.passes ? (step.price === null ? "" : money(step.price, shop.currency)) : step.why}
                  </td>
                </tr>
              ))}
            </Table>
          )}
        </div>
      ))}
    </>
  );
}

/** What flows at most, and when; one figure where peak and RMS are the same. */
function flows(basis: BasisChoices["basis"]): string {
  const rms = `${fixed(basis.rms_a, 0)} A RMS, ${basis.rms_when}`;
  if (basis.peak_a === basis.rms_a) return rms;
  return `${fixed(basis.peak_a, 0)} A at most, ${basis.peak_when}; ${rms}`;
}

function signed(value: number, decimals: number): string {
  const text = fixed(value, decimals);
  return Number(value.toFixed(decimals)) > 0 ? `+${text}` : text;
}

function signedWatts(value: number): string {
  return value > 0.05 ? `+${watts(value)}` : watts(value);
}
