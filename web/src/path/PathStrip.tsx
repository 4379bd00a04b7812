import { memo, useLayoutEffect, useMemo, useRef, useState } from "react";

import type { Forecast } from "../api/client";
import { draw, leastWidth, type Joint, type Kind } from "./pathGeometry";

const HEIGHT = 150;
const MARGIN = { top: 40, right: 150, bottom: 24, left: 20 };
const FILL: Record<Kind, string> = {
  current: "var(--copper-band)",
  output: "var(--copper-band)",
  vehicle: "var(--car-band)",
  charge: "var(--copper-pale)",
  heat: "var(--heat-band)",
};

interface Props {
  forecast: Forecast | null;
  /** A cable was pointed at; the cables' own table does the same from the keyboard. */
  onCable: (name: string) => void;
}

/** The whole path as one band whose thickness is watts: always in view, always of the job as it stands. */
export const PathStrip = memo(function PathStrip({ forecast, onCable }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1180);
  useLayoutEffect(() => {
    if (!frame.current) return;
    const observer = new ResizeObserver(
      ([entry]) => entry && setWidth(Math.max(640, entry.contentRect.width)),
    );
    observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);
  return (
    <div ref={frame} className="bg-sheet overflow-x-auto" data-path-strip>
      {forecast && forecast.explanation && (
        <p role="alert" className="border-vermilion text-vermilion mx-5 mt-2 border-l-4 px-3 py-1">
          <span aria-hidden>◆ </span>
          {forecast.explanation}
        </p>
      )}
      {forecast ? (
        <Strip forecast={forecast} width={width} onCable={onCable} />
      ) : (
        <div style={{ height: HEIGHT + 54 }} />
      )}
    </div>
  );
});

function Strip({
  forecast,
  width: room,
  onCable,
}: { forecast: Forecast; width: number } & Pick<Props, "onCable">) {
  const width = Math.max(room, leastWidth(forecast) + MARGIN.left + MARGIN.right);
  const rows = Math.max(1, forecast.amplifiers.length);
  const height = HEIGHT + 46 * (rows - 1);
  const drawing = useMemo(
    () => draw(forecast, width - MARGIN.left - MARGIN.right, height),
    [forecast, width, height],
  );
  if (drawing.bands.length === 0)
    return (
      <p className="text-soft px-5 py-16">
        No current flows yet: add a battery or a charger, and an amplifier.
      </p>
    );
  return (
    <svg
      width={width}
      height={height + MARGIN.top + MARGIN.bottom}
      role="img"
      aria-label={spoken(forecast)}
      className="block"
    >
      <g transform={`translate(${MARGIN.left},${MARGIN.top})`}>
        {drawing.bands.map((band) => (
          <path
            key={band.id}
            d={band.path}
            fill={FILL[band.kind]}
            opacity={band.kind === "output" ? 0.85 : 0.94}
            {...pointedAt(band.cable, onCable)}
          >
            <title>{`${band.from} to ${band.to}: ${band.watts.toFixed(0)} W`}</title>
          </path>
        ))}
        {drawing.joints.map((joint) => (
          <JointMark
            key={joint.id}
            joint={joint}
            pointed={pointedAt(joint.cable, onCable)}
            last={joint.x > width - MARGIN.left - MARGIN.right - 20}
          />
        ))}
      </g>
    </svg>
  );
}

function pointedAt(cable: string | null, onCable: (name: string) => void) {
  return cable === null ? {} : { onClick: () => onCable(cable), style: { cursor: "pointer" } };
}

const INK: Record<Kind, string> = {
  current: "var(--teal)",
  output: "var(--copper)",
  vehicle: "var(--soft)",
  charge: "var(--copper)",
  heat: "var(--vermilion)",
};

/** A joint with its words: sources and joints above, what leaves beside. */
function JointMark({
  joint,
  last,
  pointed,
}: {
  joint: Joint;
  last: boolean;
  pointed: ReturnType<typeof pointedAt>;
}) {
  const source = joint.column === 0 || joint.id.startsWith("source");
  const beside = joint.kind !== "current" || last;
  const ink = source ? "var(--copper)" : INK[joint.kind];
  const text = (
    <>
      <tspan fill="var(--ink)" fontWeight={beside && joint.kind === "heat" ? 400 : 700}>
        {joint.label}
      </tspan>{" "}
      <tspan fill={ink} fontWeight={700}>
        {joint.detail}
      </tspan>
    </>
  );
  // What a cable loses and what a battery takes have narrow room: their words stand on two lines.
  if (joint.cable !== null || joint.kind === "charge") return <NarrowMark joint={joint} pointed={pointed} />;
  return (
    <g>
      <rect x={joint.x} y={joint.y} width={7} height={Math.max(joint.height, 1.5)} fill={FILL[joint.kind]} />
      {beside ? (
        <text x={joint.x + 13} y={joint.y + joint.height / 2 + 5} fontSize={14}>
          {text}
        </text>
      ) : (
        <text x={joint.x} y={joint.y - 8} fontSize={14}>
          {text}
        </text>
      )}
    </g>
  );
}

/** A joint's name, and below it its figures. */
function NarrowMark({ joint, pointed }: { joint: Joint; pointed: ReturnType<typeof pointedAt> }) {
  const [x, y] = [joint.x + 13, joint.y + joint.height / 2];
  return (
    <g {...pointed}>
      <rect x={joint.x} y={joint.y} width={7} height={Math.max(joint.height, 1.5)} fill={FILL[joint.kind]} />
      <text x={x} y={y} fontSize={14} fontWeight={joint.kind === "heat" ? 400 : 700}>
        {joint.label}
      </text>
      <text x={x} y={y + 16} fontSize={13} fontWeight={700} style={{ fill: INK[joint.kind] }}>
        {joint.detail}
      </text>
    </g>
  );
}

/** The strip in a sentence, for those who do not see it. */
function spoken(forecast: Forecast): string {
  const sources = forecast.path.sources
    .filter((source) => source.watts > 0.5)
    .map((source) => `${source.name} gives ${source.watts.toFixed(0)} watts`);
  const sinks = forecast.amplifiers.map(
    (each) =>
      `${each.name} at ${each.terminal_v.toFixed(2)} volts puts ${each.delivered_mean_w.toFixed(0)} watts into the coils`,
  );
  return `Path of current. ${[...sources, `the car takes ${forecast.path.vehicle_w.toFixed(0)} watts`, ...sinks].join("; ")}.`;
}
