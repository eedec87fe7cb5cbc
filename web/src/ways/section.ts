import type { EndView } from "../api/types";

/** A way as an exploded section: each part's outline in millimetres about the axis, from true diameters and depths. */

export type Shape = {
  key: string;
  x: number;
  width: number;
  outline: string;
  bore: string;
  label: string;
  material: string;
};
export type Section = { shapes: Shape[]; joints: { x: number; index: number }[]; width: number; height: number };

const mm = (metres: number) => metres * 1000;
const wallOf = (diameter: number) => Math.max(1.6, diameter * 0.09);
const gap = 9;

const enters = (e: EndView) => e.enters;
const threaded = (e: EndView) => ["npt", "bsp", "bspp", "hose", "buttress"].includes(e.system);

/** The outside radius of a part's body at an end, and the radius of the water way. */
function radii(e: EndView): { outer: number; inner: number } {
  const r = mm(e.diameter) / 2;
  const wall = wallOf(2 * r);
  if (e.gender === "bore") return { outer: r + wall, inner: r };
  if (e.gender === "insert") return { outer: r, inner: r - wall };
  if (enters(e)) return { outer: r, inner: r - wall };
  return { outer: r + wall, inner: r - wall };
}

/** Points of one edge along an end, from its mouth inward: teeth for threads and barbs, a step at a socket's floor. */
function edge(e: EndView, radius: number, length: number, toothed: boolean): [number, number][] {
  if (!toothed)
    return [
      [0, radius],
      [length, radius],
    ];
  const pitch = e.system.startsWith("barb") || e.system.startsWith("drip") ? Math.max(2.5, length / 5) : 2.2;
  const deep = e.gender === "insert" ? 1.1 : 0.7;
  const points: [number, number][] = [];
  for (let at = 0; at < length - 0.1; at += pitch) {
    points.push([at, radius - deep], [Math.min(length, at + pitch * 0.8), radius + (e.gender === "insert" ? 0.5 : 0)]);
  }
  points.push([length, radius]);
  return points;
}

/** Half a part's wall: the outer edge out, the inner edge back, mouth of the left end at x = 0. */
function half(
  left: EndView,
  right: EndView,
  body: number,
): { outline: [number, number][]; width: number; inner: number } {
  const [l, r] = [radii(left), radii(right)];
  const [dl, dr] = [mm(left.engagement), mm(right.engagement)];
  const stopped = enters(left) || enters(right) || body > 0.1; // a slip coupling has nothing between its sockets
  const middle = stopped ? Math.max(body, 4) : 0;
  const width = (enters(left) ? 0 : dl) + middle + (enters(right) ? 0 : dr);
  const inner = Math.min(l.inner, r.inner);
  const outer: [number, number][] = [];
  const inside: [number, number][] = [];
  const lead = enters(left) ? Math.min(dl, middle * 0.49) : dl;
  const tail = enters(right) ? Math.min(dr, middle * 0.49) : dr;
  outer.push(...edge(left, l.outer, lead, enters(left) && (threaded(left) || left.gender === "insert")));
  const waist =
    enters(left) && enters(right)
      ? Math.max(l.outer, r.outer) * 1.12
      : Math.max(enters(left) ? 0 : l.outer, enters(right) ? 0 : r.outer);
  outer.push([lead, waist], [width - tail, waist]);
  outer.push(
    ...edge(right, r.outer, tail, enters(right) && (threaded(right) || right.gender === "insert"))
      .map(([x, y]): [number, number] => [width - x, y])
      .reverse(),
  );
  if (!enters(left)) {
    inside.push(...edge(left, mm(left.diameter) / 2, dl, threaded(left)));
    if (stopped) inside.push([dl, inner]);
  } else inside.push([0, inner]);
  if (!enters(right)) {
    const mouth = edge(right, mm(right.diameter) / 2, dr, threaded(right)).map(([x, y]): [number, number] => [
      width - x,
      y,
    ]);
    if (stopped) inside.push([width - dr, inner]);
    inside.push(...mouth.reverse());
  } else inside.push([width, inner]);
  return { outline: [...outer, ...inside.reverse()], width, inner };
}

const path = (points: readonly [number, number][], flip: boolean) =>
  `${points.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(2)} ${(flip ? y : -y).toFixed(2)}`).join("")}Z`;

/** A cut pipe's end, drawn a little longer than the joint needs. */
function pipeShape(e: EndView, facesRight: boolean): { outline: [number, number][]; width: number } {
  const { outer, inner } =
    e.gender === "bore" ? radii(e) : { outer: mm(e.diameter) / 2, inner: mm(e.diameter) / 2 - wallOf(mm(e.diameter)) };
  const width = mm(e.engagement) + 16;
  const toothed = threaded(e);
  const face = edge(e, outer, mm(e.engagement), toothed);
  const points: [number, number][] = [...face, [width, outer], [width, inner], [0, inner]];
  return { outline: facesRight ? points.map(([x, y]): [number, number] => [width - x, y]) : points, width };
}

/** What of a way is drawn. */
export type Drawable = {
  parts: readonly {
    name: string;
    material: string;
    left: EndView | null;
    right: EndView | null;
    length: number;
  }[];
};

export function section(way: Drawable): Section {
  const shapes: Shape[] = [];
  const joints: Section["joints"] = [];
  let x = 0;
  let height = 0;
  way.parts.forEach((part, i) => {
    const ends = [part.left, part.right].filter((e): e is EndView => e !== null && e !== undefined);
    const [first] = ends;
    if (!first) return;
    const made =
      part.left && part.right ? half(part.left, part.right, mm(part.length)) : pipeOrPart(first, Boolean(part.right));
    if (i) {
      joints.push({ x: x + gap / 2, index: i - 1 });
      x += gap;
    }
    height = Math.max(height, ...made.outline.map(([, y]) => y * 2));
    shapes.push({
      key: `${i}${part.name}`,
      x,
      width: made.width,
      outline: path(made.outline, false),
      bore: path(made.outline, true),
      label: part.name,
      material: part.material,
    });
    x += made.width;
  });
  return { shapes, joints, width: x, height };
}

/** A thing at the end of a way: a pipe, or for a female end a stub of whatever carries it. */
function pipeOrPart(e: EndView, facesRight: boolean): { outline: [number, number][]; width: number } {
  if (enters(e) || e.gender === "bore") return pipeShape(e, facesRight);
  const { outer, inner } = radii(e);
  const depth = mm(e.engagement);
  const width = depth + 12;
  const mouth = edge(e, mm(e.diameter) / 2, depth, threaded(e));
  const points: [number, number][] = [
    [0, outer],
    [width, outer],
    [width, inner],
    [depth, inner],
    ...mouth.slice().reverse(),
  ];
  return { outline: facesRight ? points.map(([x, y]): [number, number] => [width - x, y]) : points, width };
}

export type BranchEnd = { end: EndView; stop: number; direction: number };
export type Arm = { outline: string; bore: string; turn: number; reach: number; way: number; opening: number };

/** The other openings of a part as arms from its centre: each outline with its axis along x, to be turned by `turn` (degrees). */
export function arms(branches: readonly BranchEnd[], run: EndView): Arm[] {
  const within = radii(run).inner; // no arm goes on into the bore of the run
  return branches.map(({ end, stop, direction }) => {
    const made = pipeOrPart(end, true);
    const floor = enters(end) ? made.width : made.width - mm(end.engagement);
    const shift = mm(stop) - floor;
    const moved = made.outline.map(([x, y]): [number, number] => [Math.max(x + shift, within), y]);
    return {
      outline: path(moved, false),
      bore: path(moved, true),
      turn: (-direction * 180) / Math.PI,
      reach: made.width + shift,
      way: radii(end).outer,
      opening: radii(end).inner,
    };
  });
}

/** Where the centre of a part lies along its outline, whose first end's stop is so far (m) from it. */
export const centreOf = (left: EndView, stop: number): number => (enters(left) ? 0 : mm(left.engagement)) + mm(stop);
