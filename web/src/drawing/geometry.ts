import type { Plan, Point, UnitSystem } from "../api/types";

/** Plan geometry on the screen. World is metres, x east and y north; screen is pixels, y down. Nothing here sizes or joins. */

const INCH = 0.0254;
export const FOOT = 0.3048;

export type Spot = { x: number; y: number };
export type Box = { x: number; y: number; w: number; h: number };
export type View = { scale: number; cx: number; cy: number; w: number; h: number };

export const toScreen = (v: View, p: Spot): Spot => ({
  x: (p.x - v.cx) * v.scale + v.w / 2,
  y: v.h / 2 - (p.y - v.cy) * v.scale,
});

export const toWorld = (v: View, p: Spot): Spot => ({
  x: (p.x - v.w / 2) / v.scale + v.cx,
  y: (v.h / 2 - p.y) / v.scale + v.cy,
});

/** The view that shows every point with a margin in pixels; a sheet so many metres across where there is none yet. */
export function fit(points: readonly Spot[], w: number, h: number, across = 67): View {
  const margin = Math.min(70, w * 0.11);
  if (!points.length) return { scale: w / across, cx: across * 0.3, cy: across * 0.2, w, h };
  const xs = points.map((p) => p.x);
  const ys = points.map((p) => p.y);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const room = (side: number) => Math.max(40, side - 2 * margin);
  const least = points.length < 2 ? Math.min(4, across / 2) : 0.5; // m across: a manifold fills the view, a thing by itself does not
  const scale = Math.min(room(w) / Math.max(x1 - x0, least), room(h) / Math.max(y1 - y0, least), 600);
  return { scale, cx: (x0 + x1) / 2, cy: (y0 + y1) / 2, w, h };
}

/** Zoom by a factor about a place on the screen, which stays where it is. */
export function zoom(v: View, factor: number, about: Spot): View {
  const scale = Math.min(2000, Math.max(0.5, v.scale * factor));
  const fixed = toWorld(v, about);
  return {
    ...v,
    scale,
    cx: fixed.x - (about.x - v.w / 2) / scale,
    cy: fixed.y + (about.y - v.h / 2) / scale,
  };
}

/** How much of a view's width and height is drawn beyond each of its edges, for a hand that drags the plan along. */
export const BEYOND = 0.5;

/** From how many runs or points in view on none can be told from the next. */
export const CROWD = 300;

/** Whether any of a box from `a` to `b` on the screen is drawn. */
export const drawn = (v: View, a: Spot, b: Spot): boolean =>
  Math.max(a.x, b.x) > -v.w * BEYOND &&
  Math.min(a.x, b.x) < v.w * (1 + BEYOND) &&
  Math.max(a.y, b.y) > -v.h * BEYOND &&
  Math.min(a.y, b.y) < v.h * (1 + BEYOND);

export const pan = (v: View, dx: number, dy: number): View => ({
  ...v,
  cx: v.cx - dx / v.scale,
  cy: v.cy + dy / v.scale,
});

/** A round step in metres for grid and scale bar, at least `least` pixels apart. */
export function niceStep(scale: number, least: number): number {
  const raw = least / scale;
  const power = 10 ** Math.floor(Math.log10(raw));
  return ([1, 2, 5, 10].find((m) => m * power >= raw) ?? 10) * power;
}

/** What places are brought to: the grid, multiples of 45°, and things and pipe in line or square. */
export type Snap = { grid: number | null; angle: boolean; line?: boolean };

/** Lines of the snapping grid that are offered, in metres: feet and inches where the job is in them. */
export const GRIDS: Record<UnitSystem, readonly (readonly [number, string])[]> = {
  us: [
    [INCH, "1 in"],
    [6 * INCH, "6 in"],
    [FOOT, "1 ft"],
    [5 * FOOT, "5 ft"],
    [10 * FOOT, "10 ft"],
  ],
  metric: [
    [0.01, "10 mm"],
    [0.1, "0.1 m"],
    [0.25, "0.25 m"],
    [0.5, "0.5 m"],
    [1, "1 m"],
    [5, "5 m"],
  ],
};

/** The grid of a job where nobody chose another. */
export const usualGrid = (system: UnitSystem, across = 80): number => {
  const most = Math.min(across / 40, system === "us" ? FOOT : 1);
  return GRIDS[system].filter(([step]) => step <= most + 1e-9).at(-1)?.[0] ?? 0.01;
};

/** Bring a place to the grid, or to a multiple of 45° from where the line comes from. */
export function snap(at: Spot, settings: Snap, from: Spot | null): Spot {
  let { x, y } = at;
  const round = (n: number) => (settings.grid ? Math.round(n / settings.grid) * settings.grid : n);
  if (settings.angle && from) {
    const step = Math.PI / 4;
    const angle = Math.round(Math.atan2(y - from.y, x - from.x) / step) * step;
    const [ux, uy] = [Math.round(Math.cos(angle) * 1e9) / 1e9, Math.round(Math.sin(angle) * 1e9) / 1e9];
    const along = (x - from.x) * ux + (y - from.y) * uy;
    const diagonal = Math.abs(ux) > 0.1 && Math.abs(uy) > 0.1;
    const steps = diagonal ? round(along * Math.SQRT1_2) * Math.SQRT2 : round(along);
    x = from.x + steps * ux;
    y = from.y + steps * uy;
  } else {
    x = round(x);
    y = round(y);
  }
  return { x: Math.round(x * 1e4) / 1e4, y: Math.round(y * 1e4) / 1e4 };
}

/** Distance of a place from a straight run, and the nearest place on it. */
export function nearestOn(a: Spot, b: Spot, p: Spot): { distance: number; at: Spot } {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const length = dx * dx + dy * dy;
  const t = length ? Math.max(0, Math.min(1, ((p.x - a.x) * dx + (p.y - a.y) * dy) / length)) : 0;
  const at = { x: a.x + t * dx, y: a.y + t * dy };
  return { distance: Math.hypot(p.x - at.x, p.y - at.y), at };
}

export function segmentMeetsBox(a: Spot, b: Spot, box: Box): boolean {
  let [t0, t1] = [0, 1];
  const clip = (p: number, q: number): boolean => {
    if (p === 0) return q >= 0;
    const r = q / p;
    if (p < 0) {
      if (r > t1) return false;
      t0 = Math.max(t0, r);
    } else {
      if (r < t0) return false;
      t1 = Math.min(t1, r);
    }
    return true;
  };
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  return (
    clip(-dx, a.x - box.x) && clip(dx, box.x + box.w - a.x) && clip(-dy, a.y - box.y) && clip(dy, box.y + box.h - a.y)
  );
}

export const boxesMeet = (a: Box, b: Box): boolean =>
  a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;

export const pointMap = (plan: Plan): Map<string, Point> => new Map(plan.points.map((p) => [p.id, p]));
