import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { fixed, plain } from "../../ui/format";

const [WIDTH, HEIGHT] = [600, 70];

/** What is played as a strip over time, with its mean, RMS and crest. */
export function ProgrammeStrip() {
  const { job, fresh } = useWork();
  const { format, version, title, basis } = job;
  const strip = useQuery({
    queryKey: ["envelope", basis],
    queryFn: async () =>
      data(
        await api.POST("/api/v1/programme-strips", { body: { document: { format, version, title, basis } } }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
  });
  if (!strip.data) return <div className="h-[104px]" />;
  const { level, seconds, mean, rms, crest_db } = strip.data;
  const step = WIDTH / Math.max(level.length, 1);
  const y = (share: number) => (HEIGHT * (1 - share)).toFixed(1);
  const line = level.map(
    (each, i) => `L ${(i * step).toFixed(1)} ${y(each)} L ${((i + 1) * step).toFixed(1)} ${y(each)}`,
  );
  return (
    <figure>
      <svg
        role="img"
        aria-label={`Level over ${plain(seconds)} seconds`}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="bg-sheet border-rule h-[70px] w-full border"
      >
        <path
          d={`M 0 ${HEIGHT} ${line.join(" ")} L ${WIDTH} ${HEIGHT} Z`}
          style={{ fill: "var(--copper-pale)" }}
        />
        <line
          x1="0"
          x2={WIDTH}
          y1={HEIGHT * (1 - rms)}
          y2={HEIGHT * (1 - rms)}
          style={{ stroke: "var(--copper)" }}
        />
      </svg>
      <figcaption className="text-soft flex justify-between text-sm">
        <span>0 s</span>
        <span>
          mean <span className="figure">{fixed(mean * 100, 0)} %</span> · RMS{" "}
          <span className="figure">{fixed(rms * 100, 0)} %</span> of full volts · crest{" "}
          <span className="figure">{fixed(crest_db, 1)} dB</span>
        </span>
        <span>{plain(Number(seconds.toFixed(1)))} s</span>
      </figcaption>
    </figure>
  );
}
