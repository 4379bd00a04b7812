import { memo, useLayoutEffect, useMemo, useRef, useState } from "react";

import type { Forecast } from "../api/client";
import { Scroller } from "../ui/Scroller";
import { draw, leastWidth, wordsOf, type Joint, type Kind, type Words } from "./pathGeometry";

const HEIGHT = 150;
const MARGIN = { top: 40, right: 150, bottom: 36, left: 20 };
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
    <div ref={frame} className="bg-sheet" data-path-strip>
      {forecast && forecast.explanation && (
        <p role="alert" className="border-vermilion text-vermilion mx-5 mt-2 border-l-4 px-3 py-1">
          <span aria-hidden>◆ </span>
          {forecast.explanation}
        </p>
      )}
      {forecast ? (
        <Scroller label="The path, to scroll">
          <Strip forecast={forecast} width={width} onCable={onCable} />
        </Scroller>
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
  const around = MARGIN.left + MARGIN.right;
  const stacked = room < leastWidth(forecast) + around;
  const width = Math.max(room, leastWidth(forecast, stacked) + around);
  const rows = Math.max(1, forecast.amplifiers.length);
  const height = HEIGHT + 46 * (rows - 1);
  const drawing = useMemo(
    () => draw(forecast, width - around, height, stacked),
    [forecast, width, around, height, stacked],
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
            last={joint.x > width - around - 20}
            words={wordsOf(joint, stacked)}
            below={isUnderAnother(joint, drawing.joints)}
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

/** Whether a joint is a battery or a charger that gives. */
function isSource(joint: Joint): boolean {
  return joint.id.startsWith("source") && joint.kind === "current";
}

/** Whether a source stands under another one, whose band would run through words above it. */
function isUnderAnother(joint: Joint, all: Joint[]): boolean {
  return isSource(joint) && all.some((each) => isSource(each) && each.x === joint.x && each.y < joint.y);
}

interface MarkProps {
  joint: Joint;
  /** Whether nothing comes after it, so that there is room beside it. */
  last: boolean;
  words: Words;
  /** Whether its words stand below: a source under another one has that one's band above it. */
  below: boolean;
  pointed: ReturnType<typeof pointedAt>;
}

/** A joint with its words: sources and joints above, what leaves beside. */
function JointMark({ joint, last, words, below, pointed }: MarkProps) {
  const beside = words === "beside" || joint.kind !== "current" || last;
  const ink = isSource(joint) ? "var(--copper)" : INK[joint.kind];
  const weight = joint.kind === "heat" ? 400 : 700;
  const twoLines = words === "beside" || (words === "stacked" && !beside);
  const lines = beside ? joint.y + joint.height / 2 + (twoLines ? 0 : 5) : below ? 0 : joint.y - 8;
  const y = below && !beside ? joint.y + joint.height + 16 : lines - (twoLines && !beside ? 16 : 0);
  const x = joint.x + (beside ? 13 : 0);
  return (
    <g {...pointed}>
      <rect x={joint.x} y={joint.y} width={7} height={Math.max(joint.height, 1.5)} fill={FILL[joint.kind]} />
      <text x={x} y={y} fontSize={14}>
        <tspan fill="var(--ink)" fontWeight={weight}>
          {joint.label}
        </tspan>
        {twoLines ? "" : " "}
        <tspan fill={ink} fontWeight={700} {...(twoLines ? { x, dy: 16 } : {})}>
          {joint.detail}
        </tspan>
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
