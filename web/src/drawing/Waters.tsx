import { memo } from "react";
import type { DrawnWater } from "../api/types";
import { toScreen, type View } from "./geometry";
import { flat, type Projection } from "./projection";
import { useWater } from "./waterStore";

type WatersProps = { of: Record<string, DrawnWater>; how: Projection; view: View };
type Corner = readonly [number, number];

/** Bodies of water in their place: rim, floor and walls as they are, and the water as high as it stands. */
export const Waters = memo(function Waters({ of, how, view }: WatersProps) {
  const levels = useWater((s) => s.levels);
  return (
    <g pointerEvents="none">
      {Object.entries(of).map(([id, body]) => (
        <Water key={id} id={id} body={body} level={levels?.[id] ?? body.level} how={how} view={view} />
      ))}
    </g>
  );
});

function Water({
  id,
  body,
  level,
  how,
  view,
}: { id: string; body: DrawnWater; level: number } & Omit<WatersProps, "of">) {
  const { rim, floor, top, bottom } = body;
  const up = Math.min(Math.max((level - bottom) / (top - bottom || 1), 0), 1);
  const between = (at: number): Corner[] =>
    rim.map(([x, y], i) => {
      const [fx, fy] = floor[i] ?? [x, y];
      return [fx + (x - fx) * at, fy + (y - fy) * at];
    });
  const seen = (corners: readonly Corner[], z: number) =>
    corners.map(([x, y]) => toScreen(view, flat(how, { x, y, z })));
  const ring = (spots: readonly { x: number; y: number }[]) =>
    `${spots.map((s, i) => `${i ? "L" : "M"}${s.x.toFixed(1)} ${s.y.toFixed(1)}`).join("")}Z`;
  const high = seen(rim, top);
  const deep = seen(floor, bottom);
  const surface = seen(between(up), level);
  const flank = [outermost(surface, -1), outermost(surface, 1)];
  const under = [deep[flank[0] ?? 0], deep[flank[1] ?? 0], surface[flank[1] ?? 0], surface[flank[0] ?? 0]];
  return (
    <g data-water={id}>
      {how.kind !== "above" && (
        <path d={ring(under.filter((s) => s !== undefined))} fill="var(--color-water)" fillOpacity={0.16} />
      )}
      <path
        d={ring(surface)}
        fill="var(--color-water)"
        fillOpacity={0.14}
        stroke="var(--color-water)"
        strokeWidth={1.6}
      />
      {how.kind !== "above" &&
        body.upright.map(([x, y, foot, open]) => {
          const [a, b] = [foot, open].map((z) => toScreen(view, flat(how, { x, y, z })));
          return a && b ? (
            <g key={`${x} ${y}`}>
              <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="var(--color-ink)" strokeWidth={9} />
              <path d={`M${a.x} ${a.y}L${b.x} ${b.y - 1}`} stroke="var(--color-panel)" strokeWidth={5.5} />
            </g>
          ) : null;
        })}
      <path d={ring(deep)} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} strokeDasharray="4 4" />
      <path d={ring(high)} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} strokeOpacity={0.75} />
      {how.kind !== "above" &&
        [outermost(high, -1), outermost(high, 1)].map((i) => {
          const [a, b] = [high[i], deep[i]];
          return a && b ? (
            <path
              key={i}
              d={`M${a.x} ${a.y}L${b.x} ${b.y}`}
              stroke="var(--color-ink)"
              strokeWidth={2.4}
              strokeOpacity={0.75}
            />
          ) : null;
        })}
    </g>
  );
}

/** The number of the spot farthest to one side. */
function outermost(spots: readonly { x: number }[], side: 1 | -1): number {
  return spots.reduce((best, s, i) => (s.x * side > (spots[best]?.x ?? 0) * side ? i : best), 0);
}
