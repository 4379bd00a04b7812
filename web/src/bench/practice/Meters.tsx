import type { BenchReadout } from "../../api/client";
import { fixed } from "../../ui/format";

/** The meters of the bench, large enough to be read from a step away. */
export function Meters({ shown }: { shown: BenchReadout | null }) {
  const thd = shown?.distortion ?? null;
  return (
    <div
      className="bg-sheet border-rule grid grid-cols-3 gap-px border p-3 max-sm:grid-cols-2"
      aria-label="Meters"
      role="group"
    >
      <Meter label="Supply, at its terminals" value={shown?.volts} unit="V" digits={2} tone="text-teal" />
      <Meter
        label="Supply, by clamp"
        value={shown?.amps}
        unit="A"
        digits={1}
        tone="text-copper"
        over={shown?.problems.amps}
      />
      <Meter label="True power" value={shown?.true_power} unit="W" digits={0} tone="text-copper" />
      <Meter label="Output" value={shown?.output_v} unit="V" digits={2} tone="text-teal" />
      <Meter label="Output" value={shown?.output_a} unit="A" digits={2} tone="text-copper" />
      <Meter label="Phase" value={shown?.phase} unit="°" digits={0} />
      <Meter label="Heat sink" value={shown?.sink_temperature} unit="°C" digits={0} tone="text-vermilion" />
      <Meter label="Load, by ohm meter" value={shown?.coil_ohm} unit="Ω" digits={2} />
      <div className="p-2">
        <p className="text-soft text-sm">Distortion</p>
        <p className="figure text-2xl">{thd === null ? "–" : fixed(thd, thd < 10 ? 2 : 0)} %</p>
        <p role="status" className={thd !== null && thd >= 1 ? "text-vermilion font-bold" : "text-soft"}>
          {shown?.protect
            ? "◆ protection"
            : thd !== null && thd >= 3
              ? "● clipping"
              : thd !== null && thd >= 1
                ? "● 1 % reached"
                : "○ clean"}
        </p>
      </div>
    </div>
  );
}

interface MeterProps {
  label: string;
  value: number | null | undefined;
  unit: string;
  digits: number;
  tone?: string;
  /** Why it shows nothing. */
  over?: string | undefined;
}

function Meter({ label, value, unit, digits, tone = "", over }: MeterProps) {
  return (
    <div className="p-2">
      <p className="text-soft text-sm">{label}</p>
      <p className={`figure text-2xl ${tone}`}>
        {value == null ? (over ? "over" : "–") : fixed(value, digits)} {unit}
      </p>
      {over && <p className="text-vermilion text-sm">{over}</p>}
    </div>
  );
}
