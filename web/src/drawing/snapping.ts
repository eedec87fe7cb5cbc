import { type Snap, type Spot, snap } from "./geometry";

/** What a place was brought to, and by what: said beside the cross before anything is done. */
export type Brought = { at: Spot; says: string };

type Named = Spot & { name: string };
type Wanted = {
  settings: Snap;
  /** Where the line comes from, and the way the pipe that comes there goes (of length 1). */
  from: Spot | null;
  way: Spot | null;
  others: readonly Named[];
  /** How near (m) a place is to be to what it is brought to. */
  reach: number;
  grid: string;
};

const EXACT = 1e-6;
const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** Bring a place to the nearest of what there is to be brought to: the grid, in line with a thing, straight on from the pipe or square to it. */
export function bring(at: Spot, { settings, from, way, others, reach, grid }: Wanted): Brought {
  const plain = snap(at, settings, from);
  if (settings.angle && from)
    return { at: plain, says: settings.grid ? `a multiple of 45°, ${grid} grid` : "a multiple of 45°" };
  if (!settings.line) return { at: plain, says: settings.grid ? `${grid} grid` : "" };
  const off = settings.grid ? Math.hypot(plain.x - at.x, plain.y - at.y) : Number.POSITIVE_INFINITY;
  const onward = from && way ? along(at, from, way, settings.grid, Math.min(reach, off)) : null;
  if (onward) return onward;
  const x = inLine("x", at.x, plain.x, others, reach, settings.grid);
  const y = inLine("y", at.y, plain.y, others, reach, settings.grid);
  const names = [...new Set([x.name, y.name].filter(Boolean))];
  const lined = names.length ? `in line with ${names.join(" and ")}` : "";
  const gridded = settings.grid && !(x.name && y.name) ? `${grid} grid` : "";
  return { at: { x: tidy(x.to), y: tidy(y.to) }, says: [lined, gridded].filter(Boolean).join(", ") };
}

function inLine(
  axis: "x" | "y",
  at: number,
  plain: number,
  others: readonly Named[],
  reach: number,
  grid: number | null,
) {
  let best = { to: plain, name: "" };
  let least = grid ? Math.abs(plain - at) + EXACT : reach;
  for (const other of others) {
    const off = Math.abs(other[axis] - at);
    if (off > reach || off > least) continue;
    least = off;
    best = { to: other[axis], name: other.name };
  }
  return best;
}

/** Straight on from the pipe that comes there, or square to it, if that is near enough. */
function along(at: Spot, from: Spot, way: Spot, grid: number | null, reach: number): Brought | null {
  const [dx, dy] = [at.x - from.x, at.y - from.y];
  const on = dx * way.x + dy * way.y;
  const aside = dx * -way.y + dy * way.x;
  const round = (n: number) => (grid ? Math.round(n / grid) * grid : n);
  if (Math.abs(on) <= reach && Math.abs(aside) > reach && round(aside))
    return {
      at: { x: tidy(from.x - way.y * round(aside)), y: tidy(from.y + way.x * round(aside)) },
      says: "square to the pipe",
    };
  if (Math.abs(aside) <= reach && on > reach && round(on))
    return {
      at: { x: tidy(from.x + way.x * round(on)), y: tidy(from.y + way.y * round(on)) },
      says: "straight on from the pipe",
    };
  return null;
}
