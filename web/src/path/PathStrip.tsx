import { useId, useLayoutEffect, useRef, useState, type ReactNode } from "react";
import { Link } from "react-router";

import type { Forecast } from "../api/client";
import { watts } from "../ui/format";
import { inWords } from "../ui/writing";
import { Scroller } from "../ui/Scroller";
import type { Kind } from "./flows";
import type { Label, Measure } from "./labels";
import { outline, type Band, type Joint } from "./layout";
import { heightOf, strip } from "./strip";
import { useMeasure } from "./useMeasure";
import { inSentences } from "./inSentences";

/** Colour and hatching both say what a band is: it is read in black and white too. */
const FILL: Record<Kind, { colour: string; hatch: string | null }> = {
  current: { colour: "var(--copper-band)", hatch: null },
  output: { colour: "var(--copper-band)", hatch: null },
  vehicle: { colour: "var(--car-band)", hatch: "dots" },
  charge: { colour: "var(--copper-pale)", hatch: "upright" },
  heat: { colour: "var(--heat-band)", hatch: "slanted" },
};
const INK: Record<Kind, string> = {
  current: "var(--teal)",
  output: "var(--copper)",
  vehicle: "var(--soft)",
  charge: "var(--copper)",
  heat: "var(--vermilion)",
};

const FINGER = 44;

interface Props {
  /** The job's number: what is drawn leads to the station and field that it stands for; null where it leads nowhere. */
  job: number | null;
  forecast: Forecast | null;
  /** How many amplifiers the job has: the strip is as high before its forecast has come. */
  amplifiers: number;
}

/** The whole path as one band whose thickness is watts: always in view, always of the job as it stands. */
export function PathStrip({ job, forecast, amplifiers }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1180);
  const measure = useMeasure();
  useLayoutEffect(() => {
    if (!frame.current) return;
    // Known before the first forecast is drawn: what is drawn first does not have to move.
    setWidth((before) => frame.current?.clientWidth || before);
    const observer = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);
  return (
    <div ref={frame} className="bg-sheet" data-path-strip>
      {forecast && forecast.explanation && (
        <p role="alert" className="border-vermilion text-vermilion mx-5 mt-2 border-l-4 px-3 py-1">
          <span aria-hidden>◆ </span>
          {inWords(forecast.explanation)}
        </p>
      )}
      {forecast && measure ? (
        <Scroller label="The path, to scroll">
          <Drawn forecast={forecast} width={width} measure={measure} job={job} />
        </Scroller>
      ) : (
        <div style={{ height: heightOf(amplifiers) }} />
      )}
    </div>
  );
}

interface DrawnProps {
  forecast: Forecast;
  width: number;
  measure: Measure;
  job: number | null;
}

function Drawn({ forecast, width, measure, job }: DrawnProps) {
  const sentences = useId();
  const { joints, bands, labels, ...size } = strip(forecast, width, measure);
  const byId = new Map(joints.map((joint) => [joint.id, joint]));
  const told = new Set(joints.map(({ to }) => to));
  // Those that no words lead to lie lowest, for their place to touch is larger than they are.
  const drawn = [...bands].sort((a, b) => Number(told.has(a.to)) - Number(told.has(b.to)));
  const named = (id: string) => byId.get(id)?.label ?? id;
  if (bands.length === 0)
    return (
      <p className="text-soft px-5 py-16" style={{ minHeight: heightOf(forecast.amplifiers.length) }}>
        No current flows yet: add a battery or a charger, and an amplifier.
      </p>
    );
  return (
    <>
      <p id={sentences} className="sr-only">
        {inSentences(forecast)}
      </p>
      <svg
        data-path
        {...size}
        role="group"
        aria-label="Path of current"
        aria-describedby={sentences}
        className="path-strip block"
      >
        <Hatches />
        {drawn.map((band) => {
          const words = `${named(band.from)} to ${named(band.target)}: ${watts(band.watts)} W`;
          const to = job === null ? null : `/jobs/${job}/${band.to}`;
          return (
            <Led key={band.id} to={to} label={words} hidden={told.has(band.to)}>
              {!told.has(band.to) && (
                <g
                  style={{
                    transform: `translate(${(band.x0 + band.x1) / 2}px, ${(band.y0 + band.y1) / 2}px)`,
                  }}
                >
                  <Touched width={0} height={0} />
                </g>
              )}
              <Flow band={band} />
              <title>{words}</title>
            </Led>
          );
        })}
        {joints.map((joint) => (
          <Bar key={joint.id} joint={joint} />
        ))}
        {labels.map((label) => {
          const joint = byId.get(label.id);
          return (
            joint && (
              <Words
                key={label.id}
                label={label}
                joint={joint}
                to={job === null ? null : `/jobs/${job}/${joint.to}`}
              />
            )
          );
        })}
      </svg>
    </>
  );
}

/** What lies over a band's colour. */
function Hatches() {
  const line = { stroke: "var(--sheet)", strokeWidth: 1.4 };
  return (
    <defs>
      <pattern id="slanted" width={7} height={7} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0,0V7" {...line} />
      </pattern>
      <pattern id="upright" width={7} height={7} patternUnits="userSpaceOnUse">
        <path d="M0,0V7" {...line} />
      </pattern>
      <pattern id="dots" width={7} height={7} patternUnits="userSpaceOnUse">
        <circle cx={2} cy={2} r={1.2} fill="var(--sheet)" />
      </pattern>
    </defs>
  );
}

function Flow({ band }: { band: Band }) {
  const { colour, hatch } = FILL[band.kind];
  const d = outline(band);
  // As a style a path can turn calmly from one into another; the attribute is for browsers without that.
  const shape = { d, style: { d: `path("${d}")` } as object };
  return (
    <>
      <path {...shape} fill={colour} opacity={band.kind === "output" ? 0.85 : 0.94} />
      {hatch && <path {...shape} fill={`url(#${hatch})`} pointerEvents="none" />}
    </>
  );
}

function Bar({ joint: { x, y, width, height, kind } }: { joint: Joint }) {
  return (
    <rect
      width={width}
      style={{ x, y, height: Math.max(height, 1.5) } as object}
      fill={FILL[kind].colour}
      stroke={kind === "current" ? "none" : "var(--sheet)"}
    />
  );
}

/** A joint's name and figure, which lead to where it is set. */
function Words({ label, joint, to }: { label: Label; joint: Joint; to: string | null }) {
  const { leader, lines } = label;
  const source = joint.id.startsWith("source") && joint.kind === "current";
  return (
    <Led to={to}>
      {leader && <line {...endsOf(leader)} stroke="var(--soft)" strokeDasharray="2 2" />}
      <g style={{ transform: `translate(${label.x}px, ${label.y}px)` }}>
        <Touched width={label.width} height={label.height} />
        <text y={13} fontSize={14} fill="var(--ink)" fontWeight={joint.kind === "heat" ? 400 : 700}>
          {`${label.name} `}
          <tspan
            fill={source ? "var(--copper)" : INK[joint.kind]}
            fontWeight={700}
            {...(lines === 2 && { x: 0, dy: 17 })}
          >
            {joint.detail}
          </tspan>
        </text>
      </g>
    </Led>
  );
}

/** A finger needs more than a line of letters. */
function Touched({ width, height }: { width: number; height: number }) {
  const [wide, high] = [Math.max(width, FINGER), Math.max(height, FINGER)];
  return (
    <rect x={(width - wide) / 2} y={(height - high) / 2} width={wide} height={high} fill="transparent" />
  );
}

function endsOf({ x0, y0, x1, y1 }: NonNullable<Label["leader"]>) {
  return { x1: x0, y1: y0, x2: x1, y2: y1 };
}

interface LedProps {
  to: string | null;
  /** Its name, where no words stand in it. */
  label?: string;
  hidden?: boolean;
  children: ReactNode;
}

/** Something drawn that leads to where it is set; what is `hidden` from the keyboard has words that lead there too. */
function Led({ to, label, hidden = false, children }: LedProps) {
  if (to === null) return <g>{children}</g>;
  return (
    <Link
      to={to}
      {...(label && { "aria-label": label })}
      {...(hidden && { tabIndex: -1, "aria-hidden": true })}
    >
      {children}
    </Link>
  );
}
