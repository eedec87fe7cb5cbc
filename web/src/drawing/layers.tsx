import { memo } from "react";
import type { Joint, Plan, Point, Readiness, Reference, Run } from "../api/types";
import { has, isHead, isPlain, kindOf, portsOf } from "../job/kinds";
import { useFormat } from "../ui/context";
import { jointState, rankOf, worstState } from "./dress";
import { BEYOND, CROWD, drawn, FOOT, niceStep, type Spot, toScreen, toWorld, type View } from "./geometry";
import { PointGlyph } from "./glyphs";
import { JointDisc, stateTone } from "./joints";
import type { Placed } from "./labels";
import { flat, type Projection } from "./projection";

/** The layers of the drawing, from the ground up: each places what a pure function worked out. */

export const Grid = memo(function Grid({ view }: { view: View }) {
  const foot = useFormat().system === "us" ? FOOT : 1;
  const step = niceStep(view.scale * foot, 48) * foot;
  const [more, over] = [view.w * BEYOND, view.h * BEYOND];
  const [low, high] = [toWorld(view, { x: -more, y: view.h + over }), toWorld(view, { x: view.w + more, y: -over })];
  const lines = [];
  for (let x = Math.ceil(low.x / step) * step; x <= high.x; x += step) {
    const at = toScreen(view, { x, y: 0 }).x;
    lines.push(<line key={`x${x}`} x1={at} x2={at} y1={-over} y2={view.h + over} />);
  }
  for (let y = Math.ceil(low.y / step) * step; y <= high.y; y += step) {
    const at = toScreen(view, { x: 0, y }).y;
    lines.push(<line key={`y${y}`} x1={-more} x2={view.w + more} y1={at} y2={at} />);
  }
  return (
    <g stroke="var(--color-line)" strokeOpacity={0.55} pointerEvents="none">
      {lines}
    </g>
  );
});

/** How far heads throw, over their arcs. */
export const Throws = memo(function Throws({ points, view }: { points: readonly Point[]; view: View }) {
  return (
    <g pointerEvents="none">
      {points.map((p) => {
        if (!isHead(p.what) || p.what.radius <= 0) return null;
        const { radius, arc, begins } = p.what;
        const c = toScreen(view, p);
        const r = radius * view.scale;
        return (
          <path
            key={p.id}
            d={sector(c, r, begins, arc)}
            fill="var(--color-water)"
            fillOpacity={0.07}
            stroke="var(--color-water)"
            strokeOpacity={0.7}
            strokeDasharray="2 4"
            data-throw={p.id}
          />
        );
      })}
    </g>
  );
});

/** A sector from a direction (rad, anticlockwise from east) over an arc; a whole circle where it goes round. */
export function sector(c: Spot, r: number, begins: number, arc: number): string {
  if (arc >= 2 * Math.PI - 1e-6) return `M${c.x - r} ${c.y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
  const at = (way: number) => `${c.x + r * Math.cos(way)} ${c.y - r * Math.sin(way)}`;
  return `M${c.x} ${c.y}L${at(begins)}A${r} ${r} 0 ${arc > Math.PI ? 1 : 0} 0 ${at(begins + arc)}Z`;
}

/** `bare` points show no mark of their own where fittings are drawn as bodies, but for what is no fitting. */
type PointsProps = {
  plan: Plan;
  reference: Reference;
  view: View;
  selected: string | null;
  together: ReadonlySet<string>;
  bare: boolean;
};

/** Every point with its mark, what exists already in a broken ring; in a crowd plain bends and junctions are left to the pipes. */
export function Points({ plan, reference, view, selected, together, bare }: PointsProps) {
  const placed = plan.points.map((p) => ({ p, c: toScreen(view, p) })).filter(({ c }) => drawn(view, c, c));
  const spots = new Map(plan.points.map((p) => [p.id, p]));
  const ways = new Map<string, Spot>();
  for (const r of plan.runs) leads(reference, spots, r, ways);
  return (
    <g pointerEvents="none">
      {placed.map(({ p, c }) => {
        if (isPlain(reference, p) && placed.length > CROWD && p.id !== selected && !together.has(p.id)) return null;
        const kind = kindOf(reference, p.what);
        const hidden = bare && (isPlain(reference, p) || has(reference, p, "fitting"));
        const way = kind?.one_way ? ways.get(p.id) : undefined;
        return (
          <Thing
            key={p.id}
            id={p.id}
            x={c.x}
            y={c.y}
            kind={p.what.kind}
            letter={kind?.letter}
            hidden={hidden}
            existing={Boolean(p.existing)}
            selected={p.id === selected}
            together={together.has(p.id)}
            angle={way ? (Math.atan2(-way.y, way.x) * 180) / Math.PI : null}
          />
        );
      })}
    </g>
  );
}

type ThingProps = {
  id: string;
  x: number;
  y: number;
  kind: string;
  letter: string | undefined;
  hidden: boolean;
  existing: boolean;
  selected: boolean;
  together: boolean;
  angle: number | null;
};

/** One point with its mark: drawn again only where something of it changed, so that a press is shown at once among a thousand. */
const Thing = memo(function Thing({ id, x, y, kind, letter, hidden, existing, angle, ...chosen }: ThingProps) {
  return (
    <g transform={`translate(${x} ${y})`} data-point={id}>
      {chosen.selected && <circle r={21} fill="none" stroke="var(--color-water)" strokeWidth={3} />}
      {chosen.together && (
        <circle r={19} fill="none" stroke="var(--color-water)" strokeWidth={2.5} strokeDasharray="5 3" />
      )}
      {!hidden && (
        <g opacity={existing ? 0.6 : 1}>
          <PointGlyph kind={kind} letter={letter} />
        </g>
      )}
      {existing && <circle r={17} fill="none" stroke="var(--color-muted)" strokeWidth={1.6} strokeDasharray="3 4" />}
      {angle !== null && <Onward angle={angle} />}
    </g>
  );
});

/** Which way things let water pass: towards the far end of the run at their outlet. */
function leads(reference: Reference, spots: Map<string, Point>, run: Run, ways: Map<string, Spot>): void {
  for (const [near, far] of [
    [run.a, run.b],
    [run.b, run.a],
  ] as const) {
    const [here, there] = [spots.get(near.point), spots.get(far.point)];
    if (!here || !there || !kindOf(reference, here.what)?.one_way) continue;
    const way = portsOf(reference, here.what).find((p) => p.name === near.port)?.way;
    const length = Math.hypot(there.x - here.x, there.y - here.y) || 1;
    const sign = way === "out" ? 1 : way === "in" && !ways.has(near.point) ? -1 : 0;
    if (sign)
      ways.set(near.point, { x: (sign * (there.x - here.x)) / length, y: (sign * (there.y - here.y)) / length });
  }
}

function Onward({ angle }: { angle: number }) {
  return (
    <path
      d="M15-5L21 0L15 5"
      transform={`rotate(${angle})`}
      fill="none"
      stroke="var(--color-water)"
      strokeWidth={2.6}
      strokeLinecap="round"
      strokeLinejoin="round"
      data-way={Math.round(angle)}
    />
  );
}

type JointsProps = {
  plan: Plan;
  joints: readonly Joint[];
  readiness: Readiness;
  view: View;
  selected: string | null;
  /** Where a joint is seen, once one is near enough to hold it. */
  spot: (id: string) => Spot | null;
};

/** Joints at true places once there is room; before that one disc a point, with how many and the state to see first. */
export const Joints = memo(function Joints({ plan, joints, readiness, view, selected, spot }: JointsProps) {
  const at = new Map(plan.points.map((p) => [p.id, p]));
  const runs = new Map(plan.runs.map((r) => [r.id, r]));
  const ends = new Map(plan.runs.flatMap((r) => [[r.a.id, r] as const, [r.b.id, r] as const]));
  const byPlace = new Map<string, Joint[]>();
  const before = new Map<string | null, { key: string; spot: Spot }>();
  /** The disc a joint along a run is in: that of the one before it where both would lie on one another. */
  const along = (j: Joint): string => {
    const spot = placeOf(runs, at, j);
    const last = before.get(j.run);
    if (spot && last && Math.hypot(spot.x - last.spot.x, spot.y - last.spot.y) * view.scale < TOUCHING) return last.key;
    const key = `run ${j.run} ${j.number}`;
    if (spot) before.set(j.run, { key, spot });
    return key;
  };
  for (const j of joints) {
    const key = j.point ?? along(j);
    const mine = byPlace.get(key);
    if (mine) mine.push(j);
    else byPlace.set(key, [j]);
  }
  const near = view.scale > 45;
  const crowded = byPlace.size > CROWD; // then each is small, and tells its state by a letter, its ring and its colour
  const discs = [];
  const worst = (mine: Joint[]) => rankOf(worstState(mine, readiness));
  for (const [key, mine] of [...byPlace].sort(([, a], [, b]) => worst(b) - worst(a))) {
    // of places over one another, the one that asks for attention lies on top
    const centre = placeOf(runs, at, mine[0] as Joint);
    if (!centre) continue;
    const c = toScreen(view, centre);
    if (!drawn(view, c, c)) continue;
    if (near && mine[0]?.point) {
      for (const j of mine) {
        const away = direction(ends, at, j);
        const last = mine.filter((m) => m.end === j.end).length;
        const r = 24 + (last - Math.min(j.number || 1, last)) * 24;
        const seen = spot(j.id) ?? { x: c.x + away.x * r, y: c.y - away.y * r };
        discs.push(
          <g key={j.id} transform={`translate(${seen.x} ${seen.y})`} data-joint={j.id}>
            {j.id === selected && <circle r={15} fill="none" stroke="var(--color-water)" strokeWidth={3} />}
            <JointDisc
              method={j.method}
              state={jointState(readiness, j.id).state}
              wrong={!jointState(readiness, j.id).matches}
            />
          </g>,
        );
      }
      continue;
    }
    const state = worstState(mine, readiness);
    if (crowded && !mine.some((j) => j.id === selected || !jointState(readiness, j.id).matches)) {
      const tone = stateTone[state];
      discs.push(
        <g key={key} transform={`translate(${c.x} ${c.y})`} data-place={key} data-state={state}>
          <circle r={7} fill={tone.fill} stroke={tone.ring} strokeWidth={2} strokeDasharray={tone.dash} />
          {state !== "planned" && (
            <text y={3.6} textAnchor="middle" fontSize={10} fontWeight={700} fill={tone.ink} pointerEvents="none">
              {tone.letter}
            </text>
          )}
        </g>,
      );
      continue;
    }
    const wrong = mine.some((j) => !jointState(readiness, j.id).matches);
    const lead = mine.find((j) => jointState(readiness, j.id).state === state) ?? (mine[0] as Joint);
    discs.push(
      <g key={key} transform={`translate(${c.x} ${c.y})`} data-place={key}>
        {mine.some((j) => j.id === selected) && (
          <circle r={16} fill="none" stroke="var(--color-water)" strokeWidth={3} />
        )}
        <JointDisc method={lead.method} state={state} r={10.5} wrong={wrong} />
        {mine.length > 1 && (
          <text
            x={9}
            y={-8}
            fontSize={11.5}
            fontWeight={700}
            fill="var(--color-ink)"
            stroke="var(--color-panel)"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {mine.length}
          </text>
        )}
      </g>,
    );
  }
  return <g pointerEvents="none">{discs}</g>;
});

/** Pixels within which two discs would lie on one another. */
const TOUCHING = 24;

/** Where a joint lies: at its point, or at its share of its run. */
function placeOf(runs: Map<string, Run>, at: Map<string, Point>, joint: Joint): Spot | null {
  if (joint.point) return at.get(joint.point) ?? null;
  const run = runs.get(joint.run ?? "");
  const [a, b] = [at.get(run?.a.point ?? ""), at.get(run?.b.point ?? "")];
  const share = joint.share ?? 0.5;
  return a && b ? { x: a.x + (b.x - a.x) * share, y: a.y + (b.y - a.y) * share } : null;
}

/** From a point towards the far end of the run whose end a joint is on; aside where it is on no run, as on a riser. */
function direction(ends: Map<string, Run>, at: Map<string, Point>, joint: Joint): Spot {
  const run = ends.get(joint.end ?? "");
  const here = at.get(joint.point ?? "");
  const there = at.get((run?.a.id === joint.end ? run?.b.point : run?.a.point) ?? "");
  if (!run || !here || !there) return { x: 0.7, y: 0.7 };
  const [dx, dy] = [there.x - here.x, there.y - here.y];
  const length = Math.hypot(dx, dy) || 1;
  return { x: dx / length, y: dy / length };
}

export const Labels = memo(function Labels({ labels }: { labels: readonly Placed[] }) {
  return (
    <g pointerEvents="none" fontSize={13}>
      {labels.map((l) => (
        <g key={l.key} data-label={l.key}>
          <Leader label={l} />
          <rect
            x={l.box.x}
            y={l.box.y}
            width={l.box.w}
            height={l.box.h}
            fill="var(--color-panel)"
            fillOpacity={0.78}
            rx={2}
          />
          {l.lines.map((line, i) => (
            <text
              // biome-ignore lint/suspicious/noArrayIndexKey: lines keep their place
              key={i}
              x={l.box.x + l.box.w / 2}
              y={l.box.y + 14 + i * 15}
              textAnchor="middle"
              fontWeight={l.bold && i === 0 ? 700 : 400}
              fill={
                l.tone && i === l.lines.length - 1
                  ? l.tone
                  : i === 0 && l.bold
                    ? "var(--color-ink)"
                    : "var(--color-muted)"
              }
            >
              {line}
            </text>
          ))}
        </g>
      ))}
    </g>
  );
});

/** A thin line from a label that had to move away to what it names. */
function Leader({ label }: { label: Placed }) {
  const { box, at, reach } = label;
  const x = Math.max(box.x, Math.min(at.x, box.x + box.w));
  const y = Math.max(box.y, Math.min(at.y, box.y + box.h));
  const away = Math.hypot(x - at.x, y - at.y);
  if (away < reach + 10) return null;
  const start = { x: at.x + ((x - at.x) * (reach - 3)) / away, y: at.y + ((y - at.y) * (reach - 3)) / away };
  return <line x1={start.x} y1={start.y} x2={x} y2={y} stroke="var(--color-muted)" strokeWidth={1} />;
}

/** Where the ground lies over or under what is seen from a side: a short dash at each point, joined where there are several. */
export function Grounds({ points, how, view }: { points: readonly Point[]; how: Projection; view: View }) {
  const spots = points.map((p) => toScreen(view, flat(how, { x: p.x, y: p.y, z: p.ground }))).sort((a, b) => a.x - b.x);
  if (!spots.length) return null;
  return (
    <path
      d={`${spots.map((s, i) => `${i ? "L" : "M"}${s.x} ${s.y}`).join("")}${spots.length === 1 ? "h1" : ""}`}
      fill="none"
      stroke="var(--color-muted)"
      strokeWidth={1.4}
      strokeDasharray="7 4"
      pointerEvents="none"
    />
  );
}

export function ScaleAndNorth({ view, north }: { view: View; north: boolean }) {
  const format = useFormat();
  const foot = format.system === "us" ? FOOT : 1;
  const step = niceStep(view.scale * foot, 70);
  const width = step * foot * view.scale;
  return (
    <g transform={`translate(14 ${view.h - 16})`} pointerEvents="none" fontSize={12} fill="var(--color-ink)">
      <path d={`M0-5V0H${width}V-5`} fill="none" stroke="var(--color-ink)" strokeWidth={1.8} />
      <text x={width + 6} y={2}>
        {step} {format.unit("length")}
      </text>
      {north && (
        <g transform={`translate(${width + 58} -6)`}>
          <path d="M0 8V-9M-4-4L0-10L4-4" fill="none" stroke="var(--color-ink)" strokeWidth={1.8} />
          <text x={7} y={4} fontWeight={700}>
            N
          </text>
        </g>
      )}
    </g>
  );
}
