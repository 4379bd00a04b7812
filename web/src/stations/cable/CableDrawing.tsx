import { useRef } from "react";

import type { Schedule } from "../../api/client";
import { lengthWords, sizeWords, times } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { SaveSvg } from "../../ui/SaveSvg";
import { BOX, drawCables, STUB, type FuseMark, type Ground, type Wire } from "./cableGeometry";

/** The whole path on one sheet: places, cables with their tags, sizes and lengths, fuses where they sit. */
export function CableDrawing({ schedule }: { schedule: Schedule }) {
  const svg = useRef<SVGSVGElement>(null);
  const shop = useShop();
  const { width, height, boxes, wires, grounds } = drawCables(schedule.rows, (row) => {
    const [size, other] = sizeWords(row, shop);
    return [times(row.pieces, size), `${other} · ${lengthWords(row.length_m, shop)[0]}`];
  });
  const title = `Wiring of ${schedule.title}`;
  return (
    <figure className="mb-5">
      <svg
        ref={svg}
        role="img"
        aria-label={title}
        viewBox={`0 0 ${width} ${height}`}
        xmlns="http://www.w3.org/2000/svg"
        fontFamily="'Atkinson Hyperlegible Next Variable', sans-serif"
        fontSize="16.5"
        className="w-full"
        style={{ maxHeight: 560, maxWidth: width }}
      >
        <title>{title}</title>
        {wires.map((wire) => (
          <Line key={wire.tag} wire={wire} />
        ))}
        {boxes.map((box, i) => (
          <g key={`${box.name} ${i}`}>
            <rect
              x={box.x}
              y={box.y}
              width={BOX.width}
              height={BOX.height}
              rx="2"
              fill="#fdfbf6"
              stroke="#1b2426"
              strokeWidth="1.6"
              style={{ fill: "var(--sheet)", stroke: "var(--ink)" }}
            />
            <text
              x={box.x + BOX.width / 2}
              y={box.y + BOX.height / 2 + 5}
              textAnchor="middle"
              fontSize="15"
              fontWeight="700"
            >
              {box.name}
            </text>
          </g>
        ))}
        {grounds.map((ground) => (
          <Stub key={ground.tag} ground={ground} />
        ))}
      </svg>
      <div className="mt-2 print:hidden">
        <SaveSvg svg={svg} name="wiring" />
      </div>
    </figure>
  );
}

function Line({ wire: { tag, dashed, points, words, at, fuses } }: { wire: Wire }) {
  const positive = { stroke: "var(--copper)" };
  return (
    <g>
      <polyline
        points={points.map((point) => point.join(",")).join(" ")}
        fill="none"
        stroke={dashed ? "#1b2426" : "#97441a"}
        strokeWidth={dashed ? 1.6 : 2.6}
        strokeDasharray={dashed ? "7 4" : undefined}
        style={dashed ? { stroke: "var(--ink)" } : positive}
      />
      <text x={at[0]} y={at[1]}>
        <tspan fontWeight="700">{tag}</tspan> {words[0]}
      </text>
      <text x={at[0]} y={at[1] + 18} fontSize="14.5">
        {words[1]}
      </text>
      {fuses.map((fuse) => (
        <Fuse key={fuse.x} fuse={fuse} />
      ))}
    </g>
  );
}

/** A fuse as circuit diagrams have it: a box with the line through it (IEC 60617). */
function Fuse({ fuse: { x, y, label } }: { fuse: FuseMark }) {
  return (
    <g>
      <rect
        x={x - 13}
        y={y - 6}
        width="26"
        height="12"
        fill="#fdfbf6"
        stroke="#97441a"
        strokeWidth="1.6"
        style={{ fill: "var(--sheet)", stroke: "var(--copper)" }}
      />
      <line x1={x - 13} x2={x + 13} y1={y} y2={y} stroke="#97441a" style={{ stroke: "var(--copper)" }} />
      <text x={x} y={y + 21} fontSize="14.5" fontWeight="700" textAnchor="middle">
        {label}
      </text>
    </g>
  );
}

/** The way to the body's metal (IEC 60617). */
function Stub({ ground: { tag, words, at } }: { ground: Ground }) {
  const [x, y] = at;
  const foot = y + STUB;
  return (
    <g stroke="#1b2426" strokeWidth="1.8" style={{ stroke: "var(--ink)" }}>
      <line x1={x} x2={x} y1={y} y2={foot} />
      <line x1={x - 9} x2={x + 9} y1={foot} y2={foot} />
      {[-7, 0, 7].map((dx) => (
        <line key={dx} x1={x + dx} x2={x + dx - 5} y1={foot} y2={foot + 7} />
      ))}
      <text x={x + 14} y={foot + 2} fontSize="14.5" stroke="none">
        <tspan fontWeight="700">{tag}</tspan> {words}
      </text>
    </g>
  );
}
