import type { RefObject } from "react";

import { Button } from "./Button";
import { saveFile } from "./saveFile";

/** Hands a drawing over as a file of its own. */
export function SaveSvg({ svg, name }: { svg: RefObject<SVGSVGElement | null>; name: string }) {
  const save = () =>
    svg.current &&
    saveFile(`${name}.svg`, new XMLSerializer().serializeToString(svg.current), "image/svg+xml");
  return <Button onClick={save}>Save as SVG</Button>;
}
