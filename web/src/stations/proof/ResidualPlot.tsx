import type { ReadingResult } from "../../api/client";
import { Scroller } from "../../ui/Scroller";
import { marksOf, REACH } from "./residualGeometry";

const ROW = 30;
const TOP = 34;
const WIDTH = 460;
const LEFT = 40;
const RIGHT = 20;

/** Where each reading lies against its band: filled as the job stands, hollow as corrected. */
export function ResidualPlot({ readings }: { readings: ReadingResult[] }) {
  const marks = marksOf(readings);
  if (marks.length === 0) return null;
  const height = TOP + marks.length * ROW + 8;
  const x = (share: number) => LEFT + ((share + REACH) / (2 * REACH)) * (WIDTH - LEFT - RIGHT);
  return (
    <figure className="bg-sheet border-rule mb-4 max-w-xl border p-2">
      <Scroller label="The plot, to scroll">
        <svg
          viewBox={`0 0 ${WIDTH} ${height}`}
          className="w-full min-w-[440px]"
          role="img"
          aria-label={`${marks.filter((each) => each.inside).length} of ${marks.length} readings lie within their bands`}
        >
          <rect
            x={x(-1)}
            y={TOP - 8}
            width={x(1) - x(-1)}
            height={height - TOP + 4}
            className="fill-moss opacity-15"
          />
          <line
            x1={x(0)}
            x2={x(0)}
            y1={TOP - 8}
            y2={height - 4}
            className="stroke-soft"
            strokeDasharray="3 3"
          />
          {[-1, 1].map((edge) => (
            <line key={edge} x1={x(edge)} x2={x(edge)} y1={TOP - 8} y2={height - 4} className="stroke-moss" />
          ))}
          <text x={x(0)} y={18} textAnchor="middle" className="fill-soft text-[13px]">
            as forecast
          </text>
          <text x={x(-1)} y={18} textAnchor="end" className="fill-soft text-[13px]">
            less, band&rsquo;s end
          </text>
          <text x={x(1)} y={18} className="fill-soft text-[13px]">
            more, band&rsquo;s end
          </text>
          {marks.map((each, i) => {
            const y = TOP + i * ROW + ROW / 2;
            return (
              <g key={each.row}>
                <text x={6} y={y + 5} className="fill-ink font-mono text-[13px]">
                  {each.row}
                </text>
                {each.corrected !== null && (
                  <>
                    <line x1={x(each.at)} x2={x(each.corrected)} y1={y} y2={y} className="stroke-teal" />
                    <circle
                      cx={x(each.corrected)}
                      cy={y}
                      r={6}
                      className="fill-sheet stroke-teal"
                      strokeWidth={2.2}
                    />
                  </>
                )}
                <Dot x={x(each.at)} y={y} suspect={each.suspect} inside={each.inside} />
                {each.beyond && (
                  <text
                    x={x(each.at) + (each.at > 0 ? -12 : 12)}
                    y={y + 5}
                    textAnchor={each.at > 0 ? "end" : "start"}
                    className="fill-vermilion text-[13px]"
                  >
                    farther out
                  </text>
                )}
              </g>
            );
          })}
        </svg>
      </Scroller>
      <figcaption className="text-soft text-sm">
        ● as the job stands, ○ by the corrected car, ✕ probably a wrong reading. The green band is where a
        reading should lie, 95 times of 100.
      </figcaption>
    </figure>
  );
}

function Dot({ x, y, suspect, inside }: { x: number; y: number; suspect: boolean; inside: boolean }) {
  if (suspect)
    return (
      <path
        d={`M${x - 6} ${y - 6}L${x + 6} ${y + 6}M${x - 6} ${y + 6}L${x + 6} ${y - 6}`}
        className="stroke-vermilion"
        strokeWidth={2.6}
      />
    );
  return <circle cx={x} cy={y} r={5.5} className={inside ? "fill-moss" : "fill-vermilion"} />;
}
