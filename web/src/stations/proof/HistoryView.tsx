import { useQuery } from "@tanstack/react-query";

import { api, data, type HistorySeries } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Complaint } from "../../ui/Complaint";
import { Table } from "../../ui/Table";
import { band, shown } from "./shown";
import { day } from "../../ui/moments";

/** The same vehicle over the years: what was read again, and whether it has changed. */
export function HistoryView() {
  const { id } = useWork();
  const history = useQuery({
    queryKey: ["history", id],
    queryFn: async ({ signal }) =>
      data(await api.GET("/api/v1/jobs/{job_id}/history", { params: { path: { job_id: id } }, signal })),
  });
  if (history.error) return <Complaint>{history.error.message}</Complaint>;
  if (!history.data) return <p className="text-soft py-6">Looking back …</p>;
  const { plate, series } = history.data;
  if (series.length === 0)
    return (
      <p className="max-w-2xl py-3">
        Nothing was read twice yet on different days.{" "}
        {plate
          ? `Readings of every job with the plate ${plate} are held against each other here.`
          : "Give the job its plate (under Details): readings of every job with that plate are then held against each other here."}
      </p>
    );
  return (
    <>
      <p className="text-soft mb-2">{plate ? `Every job with the plate ${plate}.` : "This job."}</p>
      {series
        .filter((each) => each.warning)
        .map((each) => (
          <p key={each.name + each.state} className="text-vermilion">
            ▲ {each.name}: {each.warning}
          </p>
        ))}
      <Table label="Readings over the years" head={["What", "When and what", "", "Should be", "Last", ""]}>
        {series.map((each) => (
          <tr key={each.name + each.state}>
            <td>
              {each.name}
              <span className="text-soft block text-sm">{each.state}</span>
            </td>
            <td className="text-sm whitespace-nowrap">
              {each.points.map((point) => (
                <span key={point.taken_at} className="block">
                  {day(point.taken_at)} <span className="figure">{shown(point.value, each.unit)}</span>
                </span>
              ))}
            </td>
            <td>
              <Course series={each} />
            </td>
            <td className="figure">
              {each.low === null || each.high === null ? "–" : band(each.low, each.high, each.unit)}
            </td>
            <td className="figure">{shown(each.points.at(-1)?.value ?? 0, each.unit)}</td>
            <td>
              {each.warning ? (
                <span className="text-vermilion">▲ changed</span>
              ) : (
                <span className="text-moss">✓ as before</span>
              )}
            </td>
          </tr>
        ))}
      </Table>
    </>
  );
}

const WIDE = 140;
const HIGH = 40;

/** A series as a line from its oldest to its newest point, with the band of the newest behind it. */
function Course({ series: { points, low, high, name } }: { series: HistorySeries }) {
  const values = [
    ...points.map((point) => point.value),
    ...(low === null ? [] : [low]),
    ...(high === null ? [] : [high]),
  ];
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const times = points.map((point) => Date.parse(point.taken_at));
  const [first, last] = [Math.min(...times), Math.max(...times)];
  const x = (at: number) => 6 + ((at - first) / (last - first || 1)) * (WIDE - 12);
  const y = (value: number) => HIGH - 5 - ((value - least) / (most - least || 1)) * (HIGH - 10);
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      width={WIDE}
      height={HIGH}
      role="img"
      aria-label={`${name} over time`}
    >
      {low !== null && high !== null && (
        <rect
          x={0}
          width={WIDE}
          y={y(high)}
          height={Math.max(y(low) - y(high), 1)}
          className="fill-moss opacity-20"
        />
      )}
      <polyline
        points={points.map((point, i) => `${x(times[i] ?? first)},${y(point.value)}`).join(" ")}
        className="stroke-teal fill-none"
        strokeWidth={2}
      />
      {points.map((point, i) => (
        <circle
          key={point.taken_at}
          cx={x(times[i] ?? first)}
          cy={y(point.value)}
          r={3.5}
          className="fill-teal"
        />
      ))}
    </svg>
  );
}
