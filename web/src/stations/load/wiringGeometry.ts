import type { LoadOption } from "../../api/client";

type Point = [number, number];

/** A coil drawn as loops between its plus and minus ends. */
export interface CoilMark {
  top: Point;
  bottom: Point;
}
export interface WiringPicture {
  width: number;
  height: number;
  drivers: { x: number; y: number; width: number; height: number; label: string }[];
  coils: CoilMark[];
  /** Wires in the order in which they are fitted; `lead` numbers the ones that are cut and crimped. */
  wires: { points: Point[]; from: "plus" | "minus" | "link" }[];
  leads: { at: Point; number: number }[];
  joints: Point[];
  plus: Point;
  minus: Point;
}

const DRIVER = { width: 86, height: 92 };
const GAP = { x: 30, y: 34 };
const LEFT = 84;
const TOP = 34;

/** The wiring of one channel's drivers: strings side by side, each string from the plus rail down to the minus rail. */
export function drawWiring({
  coils,
  in_series,
  strings,
}: Pick<LoadOption, "coils" | "in_series" | "strings">): WiringPicture {
  const height = TOP * 2 + in_series * DRIVER.height + (in_series - 1) * GAP.y + 40;
  const width = LEFT + strings * (DRIVER.width + GAP.x) + 20;
  const [railTop, railBottom] = [TOP - 14, height - TOP + 14];
  const picture: WiringPicture = {
    width,
    height,
    drivers: [],
    coils: [],
    wires: [],
    leads: [],
    joints: [],
    plus: [18, height / 2 - 26],
    minus: [18, height / 2 + 26],
  };
  const columns = Array.from({ length: strings }, (_, i) => LEFT + i * (DRIVER.width + GAP.x));
  const ends = columns.map((x) => x + DRIVER.width / 2);
  const last = ends.at(-1) ?? LEFT;
  picture.wires.push(
    { from: "plus", points: [picture.plus, [42, picture.plus[1]], [42, railTop], [last, railTop]] },
    { from: "minus", points: [picture.minus, [42, picture.minus[1]], [42, railBottom], [last, railBottom]] },
  );
  columns.forEach((x, column) =>
    drawString(picture, { x, column, in_series, coils, railTop, railBottom, last }),
  );
  return picture;
}

interface StringOf {
  x: number;
  column: number;
  in_series: number;
  coils: LoadOption["coils"];
  railTop: number;
  railBottom: number;
  last: number;
}

function drawString(
  picture: WiringPicture,
  { x, column, in_series, coils, railTop, railBottom, last }: StringOf,
) {
  const middle = x + DRIVER.width / 2;
  let above: Point = [middle, railTop];
  for (let row = 0; row < in_series; row += 1) {
    const y = TOP + 20 + row * (DRIVER.height + GAP.y);
    const label = String(picture.drivers.length + 1);
    picture.drivers.push({ x, y, ...DRIVER, label });
    const { top, bottom } = drawDriver(picture, x, y, coils);
    picture.wires.push({ from: row === 0 ? "plus" : "link", points: [above, top] });
    addLead(picture, [middle, (above[1] + top[1]) / 2]);
    above = bottom;
  }
  picture.wires.push({ from: "minus", points: [above, [middle, railBottom]] });
  addLead(picture, [middle, (above[1] + railBottom) / 2]);
  if (column > 0 || last !== middle) {
    picture.joints.push([middle, railTop], [middle, railBottom]);
  }
}

function addLead(picture: WiringPicture, at: Point) {
  picture.leads.push({ at, number: picture.leads.length + 1 });
}

/** The coils inside a driver; its own ends at the middle of its top and bottom. */
function drawDriver(picture: WiringPicture, x: number, y: number, coils: LoadOption["coils"]) {
  const middle = x + DRIVER.width / 2;
  const top: Point = [middle, y];
  const bottom: Point = [middle, y + DRIVER.height];
  const [coilTop, coilBottom] = [y + 20, y + DRIVER.height - 20];
  if (coils === "single") {
    picture.coils.push({ top: [middle, coilTop], bottom: [middle, coilBottom] });
    picture.wires.push(
      { from: "link", points: [top, [middle, coilTop]] },
      { from: "link", points: [[middle, coilBottom], bottom] },
    );
    return { top, bottom };
  }
  const [left, right] = [x + 24, x + DRIVER.width - 24];
  picture.coils.push(
    { top: [left, coilTop], bottom: [left, coilBottom] },
    { top: [right, coilTop], bottom: [right, coilBottom] },
  );
  if (coils === "parallel") {
    for (const side of [left, right]) {
      picture.wires.push(
        { from: "link", points: [top, [middle, y + 9], [side, y + 9], [side, coilTop]] },
        {
          from: "link",
          points: [[side, coilBottom], [side, coilBottom + 11], [middle, coilBottom + 11], bottom],
        },
      );
    }
    picture.joints.push([middle, y + 9], [middle, coilBottom + 11]);
  } else {
    // From the first coil's minus up between the two to the second coil's plus.
    picture.wires.push(
      { from: "link", points: [top, [middle, y + 6], [left, y + 6], [left, coilTop]] },
      {
        from: "link",
        points: [
          [left, coilBottom],
          [left, coilBottom + 8],
          [middle, coilBottom + 8],
          [middle, coilTop - 6],
          [right, coilTop - 6],
          [right, coilTop],
        ],
      },
      {
        from: "link",
        points: [[right, coilBottom], [right, coilBottom + 14], [middle, coilBottom + 14], bottom],
      },
    );
  }
  return { top, bottom };
}

/** The path of a coil: loops from its plus end to its minus end. */
export function coilPath({ top, bottom }: CoilMark): string {
  const loops = 4;
  const step = (bottom[1] - top[1]) / loops;
  const arcs = Array.from({ length: loops }, () => `a 8 ${step / 2} 0 0 1 0 ${step}`);
  return `M ${top[0]} ${top[1]} ${arcs.join(" ")}`;
}
