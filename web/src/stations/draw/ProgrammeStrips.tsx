import type { AmplifierStrip } from "../../api/client";
import { useWorkedOut } from "../../job/useWorkedOut";
import { fixed, plain } from "../../ui/format";

const [WIDTH, HEIGHT] = [600, 70];

/** What each amplifier plays as a strip over time, with its mean, RMS and crest; those that play alike share one. */
export function ProgrammeStrips() {
  const strips = useWorkedOut("programme-strips");
  if (!strips.data) return <div className="h-[104px]" />;
  return (
    <div className="flex flex-col gap-3">
      {strips.data.strips.map((each) => (
        <ProgrammeStrip key={each.amplifiers.join()} {...each} />
      ))}
    </div>
  );
}

function ProgrammeStrip({ amplifiers, strip }: AmplifierStrip) {
  const { level, seconds, mean, rms, crest_db } = strip;
  const step = WIDTH / Math.max(level.length, 1);
  const top = Math.max(1, ...level);
  const y = (share: number) => (HEIGHT * (1 - share / top)).toFixed(1);
  const line = level.map(
    (each, i) => `L ${(i * step).toFixed(1)} ${y(each)} L ${((i + 1) * step).toFixed(1)} ${y(each)}`,
  );
  const whose = amplifiers.join(", ");
  return (
    <figure>
      <svg
        role="img"
        aria-label={`Level over ${plain(seconds)} seconds${whose && `, ${whose}`}`}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="bg-sheet border-rule h-[70px] w-full border"
      >
        <path
          d={`M 0 ${HEIGHT} ${line.join(" ")} L ${WIDTH} ${HEIGHT} Z`}
          style={{ fill: "var(--copper-pale)" }}
        />
        <line x1="0" x2={WIDTH} y1={y(rms)} y2={y(rms)} style={{ stroke: "var(--copper)" }} />
        {top > 1 && (
          <line
            x1="0"
            x2={WIDTH}
            y1={y(1)}
            y2={y(1)}
            strokeDasharray="6 4"
            style={{ stroke: "var(--vermilion)" }}
          />
        )}
      </svg>
      <figcaption className="text-soft flex flex-wrap justify-between gap-x-4 text-sm">
        <span>{whose}</span>
        <span>
          mean <span className="figure">{fixed(mean * 100, 0)} %</span> · RMS{" "}
          <span className="figure">{fixed(rms * 100, 0)} %</span> of full volts · crest{" "}
          <span className="figure">{fixed(crest_db, 1)} dB</span>
          {top > 1.0001 && ", clips above the dashes"}
        </span>
        <span>{plain(Number(seconds.toFixed(1)))} s</span>
      </figcaption>
    </figure>
  );
}
