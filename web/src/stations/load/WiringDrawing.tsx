import { useRef } from "react";

import type { LoadOption } from "../../api/client";
import { Button } from "../../ui/Button";
import { plain } from "../../ui/format";
import { SaveSvg } from "../../ui/SaveSvg";
import { coilPath, drawWiring } from "./wiringGeometry";

/** The drivers of one channel as they are wired: coils as loops, plus and minus, leads numbered as they are fitted. */
export function WiringDrawing({ option }: { option: LoadOption }) {
  const svg = useRef<SVGSVGElement>(null);
  const { width, height, drivers, coils, wires, leads, joints, plus, minus } = drawWiring(option);
  const title = `${option.words}: ${plain(option.load_ohm)} Ω`;
  return (
    <figure>
      <svg
        ref={svg}
        role="img"
        aria-label={title}
        viewBox={`0 0 ${width} ${height}`}
        xmlns="http://www.w3.org/2000/svg"
        className="w-full"
        style={{ maxHeight: 380, maxWidth: width * 1.25 }}
      >
        <title>{title}</title>
        {drivers.map((driver) => (
          <g key={driver.label}>
            <rect
              x={driver.x}
              y={driver.y}
              width={driver.width}
              height={driver.height}
              rx="3"
              fill="#f7f3ea"
              stroke="#a39a86"
              style={{ fill: "var(--paper)", stroke: "var(--car-band)" }}
              strokeDasharray="4 3"
            />
            <text x={driver.x + 5} y={driver.y + driver.height - 6} fontSize="12">
              {driver.label}
            </text>
            <Sign x={driver.x + driver.width - 12} y={driver.y + 13} plus />
            <Sign x={driver.x + driver.width - 12} y={driver.y + driver.height - 5} />
          </g>
        ))}
        <g fill="none" strokeWidth="2.2">
          {wires.map((wire, i) => (
            <polyline
              key={i}
              points={wire.points.map((point) => point.join(",")).join(" ")}
              stroke={wire.from === "minus" ? "#1b2426" : "#97441a"}
              style={{ stroke: wire.from === "minus" ? "var(--ink)" : "var(--copper)" }}
            />
          ))}
          {coils.map((coil, i) => (
            <path key={i} d={coilPath(coil)} stroke="#1b2426" style={{ stroke: "var(--ink)" }} />
          ))}
        </g>
        {joints.map(([x, y], i) => (
          <circle key={i} cx={x} cy={y} r="3.4" fill="#97441a" style={{ fill: "var(--copper)" }} />
        ))}
        {leads.map((lead) => (
          <text key={lead.number} x={lead.at[0] + 6} y={lead.at[1] + 4} fontSize="12">
            {lead.number}
          </text>
        ))}
        <Terminal at={plus} plus />
        <Terminal at={minus} />
      </svg>
      <div className="mt-2 flex gap-2 print:hidden">
        <SaveSvg svg={svg} name={option.words} />
        <Button onClick={() => window.print()}>Print</Button>
      </div>
    </figure>
  );
}

function Sign({ x, y, plus = false }: { x: number; y: number; plus?: boolean }) {
  return (
    <text x={x} y={y} fontSize="14" fontWeight="700">
      {plus ? "+" : "−"}
    </text>
  );
}

function Terminal({ at: [x, y], plus = false }: { at: [number, number]; plus?: boolean }) {
  return (
    <g>
      <circle
        cx={x}
        cy={y}
        r="7"
        fill="#fdfbf6"
        stroke="#1b2426"
        strokeWidth="2"
        style={{ fill: "var(--sheet)", stroke: "var(--ink)" }}
      />
      <text x={x - 4.5} y={y + (plus ? -11 : 22)} fontSize="15" fontWeight="700">
        {plus ? "+" : "−"}
      </text>
    </g>
  );
}
