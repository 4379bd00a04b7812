import type { PlanPoint, PlanResult } from "../../api/client";
import { fixed } from "../../ui/format";
import { picture, SIZE } from "./planGeometry";

interface Props {
  points: PlanPoint[];
  goalV: number | null;
  chosen: PlanResult | undefined;
}

/** Cost against volts: every solved set a faint mark, the best drawn through, the chosen plan ringed. */
export function PlanPicture({ points, goalV, chosen }: Props) {
  const { marks, line, costs, volts, goalY } = picture(points, goalV);
  const { width, height, left, right, bottom } = SIZE;
  const ringed = marks.find(
    ({ point }) => point.cost === chosen?.cost && point.terminal_v === chosen.terminal_v,
  );
  return (
    <svg
      role="img"
      aria-label={`${points.length} sets by cost and volts at the amplifier`}
      viewBox={`0 0 ${width} ${height}`}
      className="bg-sheet border-rule w-full border"
    >
      {volts.map((each) => (
        <g key={each.volts}>
          <line x1={left} x2={width - right} y1={each.y} y2={each.y} stroke="var(--rule)" />
          <text x={left - 6} y={each.y + 4} textAnchor="end" fontSize="12" fill="var(--soft)">
            {fixed(each.volts, 1)}
          </text>
        </g>
      ))}
      {costs.map((each) => (
        <text
          key={each.cost}
          x={each.x}
          y={height - bottom + 17}
          textAnchor="middle"
          fontSize="12"
          fill="var(--soft)"
        >
          {each.cost}
        </text>
      ))}
      <text x={width - right} y={height - 4} textAnchor="end" fontSize="12" fill="var(--soft)">
        cost
      </text>
      <text x={6} y={12} fontSize="12" fill="var(--soft)">
        V
      </text>
      {goalY !== null && (
        <>
          <line
            x1={left}
            x2={width - right}
            y1={goalY}
            y2={goalY}
            stroke="var(--teal)"
            strokeDasharray="6 4"
          />
          <text x={width - right} y={goalY - 4} textAnchor="end" fontSize="12" fill="var(--teal)">
            the goal, {fixed(goalV ?? 0, 1)} V
          </text>
        </>
      )}
      {marks.map(({ x, y, point }, i) => (
        <circle
          key={i}
          cx={x}
          cy={y}
          r={2}
          fill={point.meets ? "var(--moss)" : "var(--car-band)"}
          opacity={0.55}
        />
      ))}
      <polyline points={line} fill="none" stroke="var(--copper)" strokeWidth={1.5} />
      {marks
        .filter(({ point }) => point.frontier)
        .map(({ x, y }, i) => (
          <circle key={i} cx={x} cy={y} r={3.5} fill="var(--copper)" />
        ))}
      {ringed && <circle cx={ringed.x} cy={ringed.y} r={8} fill="none" stroke="var(--ink)" strokeWidth={2} />}
    </svg>
  );
}
