import { CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, MarkLineComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { useEffect, useMemo, useState } from "react";

import { saveFile } from "../../ui/saveFile";
import { Button } from "../../ui/Button";
import { plain } from "../../ui/format";
import { nearestIndex } from "../../ui/nearestIndex";
import { useChart } from "../../ui/useChart";
import { QUANTITIES, type Line, type Quantity } from "./lines";
import { chartOptions } from "./options";

echarts.use([LineChart, ScatterChart, CustomChart, GridComponent, MarkLineComponent]);

interface Props {
  lines: Line[];
  quantity: Quantity;
  fileName: string;
}

/** Lines over load with the readings on top. Left and right keys, or the pointer, read along them. */
export function LoadChart({ lines, quantity, fileName }: Props) {
  const read = lines.findLast((line) => !line.thin);
  const loads = useMemo(() => read?.load ?? [], [read]);
  const [at, setAt] = useState(Infinity);
  const index = Math.min(at, loads.length - 1);
  const load = loads[index];
  const { frame, chart } = useChart(
    (colour) => chartOptions(lines, quantity, load, colour),
    [lines, quantity, load],
  );
  useEffect(() => {
    const made = chart.current;
    const onMove = (event: { offsetX: number; offsetY: number }) => {
      const [ohm] = made?.convertFromPixel("grid", [event.offsetX, event.offsetY]) ?? [];
      if (ohm !== undefined) setAt(nearestIndex(loads, ohm));
    };
    made?.getZr().on("mousemove", onMove);
    return () => made?.getZr()?.off("mousemove", onMove);
  }, [loads, chart]);

  const { words } = QUANTITIES[quantity];
  return (
    <figure
      tabIndex={0}
      aria-label={`${words} over load. Left and right keys read along the curve.`}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
        if (by === undefined || event.target !== event.currentTarget) return;
        event.preventDefault();
        setAt(Math.min(Math.max(index + by, 0), loads.length - 1));
      }}
      className="bg-sheet border-rule border"
    >
      <div ref={frame} className="h-[340px] w-full" />
      <figcaption className="border-rule flex flex-wrap items-center gap-x-6 gap-y-1 border-t px-4 py-1">
        <span aria-live="polite" className="flex flex-wrap gap-x-6">
          <span className="figure">{load === undefined ? "" : `${plain(load)} Ω`}</span>
          {lines
            .filter((line) => !line.thin)
            .map((line) => (
              <ReadOut key={line.name} line={line} quantity={quantity} load={load} />
            ))}
        </span>
        <Button
          className="ml-auto"
          onClick={() =>
            saveFile(`${fileName}.svg`, chart.current?.renderToSVGString() ?? "", "image/svg+xml")
          }
        >
          Save as SVG
        </Button>
      </figcaption>
    </figure>
  );
}

function ReadOut({ line, quantity, load }: { line: Line; quantity: Quantity; load: number | undefined }) {
  if (load === undefined) return null;
  const i = nearestIndex(line.load, load);
  const { shown, unit } = QUANTITIES[quantity];
  return (
    <span>
      <span style={{ color: `var(${line.colour})` }}>{line.name}</span>{" "}
      <span className="figure">
        {shown(line.value[i] ?? 0)} {unit}
      </span>{" "}
      {line.low.length > 0 && (
        <span className="text-soft text-sm">
          ({shown(line.low[i] ?? 0)}–{shown(line.high[i] ?? 0)}), {line.rules[i]} rules
        </span>
      )}
    </span>
  );
}
