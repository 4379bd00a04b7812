import { useRef } from "react";

import type { BankAtWork } from "../../api/client";
import { plain } from "../../ui/format";
import { SaveSvg } from "../../ui/SaveSvg";
import { drawBank, PIECE } from "./bankGeometry";

/** The wiring of a bank: resistors as boxes along the current, copper wires, dots where they are joined. */
export function BankDrawing({ bank }: { bank: BankAtWork }) {
  const svg = useRef<SVGSVGElement>(null);
  const { width, height, pieces, wires, joints } = drawBank(bank);
  const title = `${plain(bank.load_ohm)} Ω: ${bank.words}`;
  return (
    <figure>
      <svg
        ref={svg}
        role="img"
        aria-label={title}
        viewBox={`0 0 ${width} ${height}`}
        xmlns="http://www.w3.org/2000/svg"
        className="w-full"
        style={{ maxHeight: 340, maxWidth: width * 1.2 }}
      >
        <title>{title}</title>
        <g fill="none" stroke="#97441a" strokeWidth="2.2">
          {wires.map((wire, i) => (
            <polyline
              key={i}
              points={wire.map((point) => point.join(",")).join(" ")}
              style={{ stroke: "var(--copper)" }}
            />
          ))}
        </g>
        {joints.map(([x, y], i) => (
          <circle key={i} cx={x} cy={y} r="3.6" fill="#97441a" style={{ fill: "var(--copper)" }} />
        ))}
        {pieces.map((piece, i) => (
          <g key={i}>
            <rect
              x={piece.x}
              y={piece.y - PIECE.height / 2}
              width={piece.width}
              height={PIECE.height}
              fill="#fdfbf6"
              stroke="#1b2426"
              style={{ fill: "var(--sheet)", stroke: "var(--ink)" }}
              strokeWidth="1.6"
            />
            <text x={piece.x + piece.width / 2} y={piece.y + 4.5} textAnchor="middle" fontSize="12.5">
              {piece.label}
            </text>
          </g>
        ))}
      </svg>
      <div className="mt-2">
        <SaveSvg svg={svg} name={`bank ${plain(bank.load_ohm)} ohm`} />
      </div>
    </figure>
  );
}
