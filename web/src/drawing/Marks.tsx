import { memo } from "react";
import type { Point } from "../api/types";
import { drawn, toScreen, type View } from "./geometry";
import { flat, levelOf, type Projection } from "./projection";

const line = (dash: string | undefined, width: number) => ({
  fill: "none",
  stroke: "var(--color-muted)",
  strokeWidth: width,
  strokeDasharray: dash,
});

/** What is fixed on the site and long, drawn quietly under the line: walls, drives, cables, other pipe. */
export const Marks = memo(function Marks({
  points,
  how,
  view,
}: {
  points: readonly Point[];
  how: Projection;
  view: View;
}) {
  return (
    <g pointerEvents="none">
      {points.map((p) => {
        const mark = p.what;
        if (!("east" in mark) || (!mark.east && !mark.north)) return null;
        const z = levelOf(p);
        const a = toScreen(view, flat(how, { x: p.x, y: p.y, z }));
        const b = toScreen(view, flat(how, { x: p.x + mark.east, y: p.y + mark.north, z }));
        if (!drawn(view, a, b)) return null;
        const d = `M${a.x} ${a.y}L${b.x} ${b.y}`;
        if (mark.what === "drive") {
          const broad = mark.width * view.scale;
          return (
            <g key={p.id} data-mark={p.id}>
              <path d={d} fill="none" stroke="var(--color-muted)" strokeOpacity={0.16} strokeWidth={broad} />
            </g>
          );
        }
        return (
          <g key={p.id} data-mark={p.id}>
            {mark.what === "wall" && <path d={d} {...line(undefined, 7)} strokeOpacity={0.55} />}
            {mark.what === "cable" && <path d={d} {...line("10 4 2 4", 2)} />}
            {mark.what === "other pipe" && <path d={d} {...line("14 4", 3)} />}
            {!["wall", "cable", "other pipe"].includes(mark.what) && <path d={d} {...line("3 4", 1.6)} />}
          </g>
        );
      })}
    </g>
  );
});
