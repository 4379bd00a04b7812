import type { EngineResult } from "../../api/client";
import { amps } from "../../ui/format";
import { ENGINE_WORDS } from "./kinds";

interface Share {
  name: string;
  amps: number;
  fill: string;
  ink: string;
}

/** A share narrower than this has no room for its figure, which stands in the table below. */
const LEAST_PERCENT = 13;

/** Who gives the amps and who takes them in one engine state: two bars of one length, for what is given is taken. */
export function sharesOf({ charger_a, bank_a, vehicle_a, draw_a }: EngineResult): {
  given: Share[];
  taken: Share[];
} {
  const share = (name: string, value: number, fill: string, ink: string) => ({
    name,
    amps: value,
    fill,
    ink,
  });
  const real = (shares: Share[]) => shares.filter((each) => each.amps > 0.05);
  return {
    given: real([
      share("charger", charger_a, "var(--copper)", "var(--sheet)"),
      share("batteries", bank_a, "var(--copper-pale)", "var(--ink)"),
    ]),
    taken: real([
      share("car", vehicle_a, "var(--car-band)", "var(--ink)"),
      share("amplifiers", draw_a, "var(--copper)", "var(--sheet)"),
      share("into the batteries", -bank_a, "var(--copper-pale)", "var(--ink)"),
    ]),
  };
}

/** The same for every engine state, all on one scale of amps. */
export function Carriers({ engines }: { engines: readonly EngineResult[] }) {
  const rows = engines.map((each) => ({ engine: each.engine, ...sharesOf(each) }));
  const most = Math.max(1, ...rows.map(({ given }) => given.reduce((sum, each) => sum + each.amps, 0)));
  return (
    <div aria-hidden className="mb-3 space-y-3">
      {rows.map(({ engine, given, taken }) => (
        <div key={engine} className="grid grid-cols-[5.5rem_minmax(0,1fr)] items-center gap-x-2">
          <span>{ENGINE_WORDS[engine]}</span>
          <div className="space-y-px">
            <Bar shares={given} most={most} />
            <Bar shares={taken} most={most} />
          </div>
        </div>
      ))}
      <p className="text-soft text-sm">Above, who gives the amps; below, who takes them.</p>
    </div>
  );
}

function Bar({ shares, most }: { shares: Share[]; most: number }) {
  return (
    <div className="bg-sunk flex h-6 w-full gap-px">
      {shares.map(({ name, amps: value, fill, ink }) => {
        const percent = (100 * value) / most;
        return (
          <div
            key={name}
            className={`overflow-hidden text-sm leading-6 whitespace-nowrap ${percent > LEAST_PERCENT ? "px-1.5" : ""}`}
            style={{ width: `${percent}%`, background: fill, color: ink }}
            title={`${name}: ${amps(value)} A`}
          >
            {percent > LEAST_PERCENT && `${name} ${amps(value)} A`}
          </div>
        );
      })}
    </div>
  );
}
