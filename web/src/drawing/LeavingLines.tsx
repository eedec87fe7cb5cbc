import type { Leaving, Point } from "../api/types";
import type { View } from "./geometry";
import { toScreen } from "./geometry";

type LeavingLinesProps = { leaving: readonly Leaving[]; points: readonly Point[]; view: View };

/** Pipe that is in use until a changeover is over, beside the new: the old in broken grey, a loop as hose in an arc. */
export function LeavingLines({ leaving, points, view }: LeavingLinesProps) {
  const at = new Map(points.map((p) => [p.id, p]));
  return (
    <g pointerEvents="none">
      {leaving.map((x) => {
        const [a, b] = [at.get(x.a.point), at.get(x.b?.point ?? "")];
        if (!a || (x.b && !b)) return null;
        const from = toScreen(view, a);
        const to = b ? toScreen(view, b) : { x: from.x - 46, y: from.y + 46 };
        const long = Math.max(1, Math.hypot(to.x - from.x, to.y - from.y));
        const off = x.what === "old" ? 16 : 40;
        const mid = {
          x: (from.x + to.x) / 2 + ((to.y - from.y) / long) * off,
          y: (from.y + to.y) / 2 - ((to.x - from.x) / long) * off,
        };
        const old = x.what === "old";
        return (
          <g key={x.id} data-leaving={x.id}>
            <path
              d={`M${from.x} ${from.y}Q${mid.x} ${mid.y} ${to.x} ${to.y}`}
              fill="none"
              stroke={old ? "var(--color-muted)" : "var(--color-water)"}
              strokeWidth={old ? 5 : 4}
              strokeDasharray={old ? "10 6" : "2 6"}
              strokeLinecap={old ? "butt" : "round"}
            />
            <text
              x={old ? from.x + (mid.x - from.x) * 0.9 + (to.x - from.x) * 0.2 : to.x}
              y={old ? mid.y + 14 : to.y + 14}
              textAnchor="middle"
              className="fill-ink text-[12px]"
              paintOrder="stroke"
              stroke="var(--color-panel)"
              strokeWidth={3}
            >
              {old ? "old, leaves" : "temporary loop"}
            </text>
          </g>
        );
      })}
    </g>
  );
}
