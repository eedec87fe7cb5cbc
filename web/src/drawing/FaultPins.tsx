import type { Plan } from "../api/types";
import { useFormat } from "../ui/context";
import { useFinding } from "./faultStore";
import { type Spot, toScreen, type View } from "./geometry";

/** What would explain the readings, on the drawing: places shaded and numbered, readings in boxes, where to read next in a broken ring. */
export function FaultPins({ plan, view }: { plan: Plan; view: View }) {
  const finding = useFinding((s) => s.finding);
  const format = useFormat();
  if (!finding) return null;
  const { found } = finding;
  const points = new Map(plan.points.map((p) => [p.id, toScreen(view, p)]));
  const runs = new Map(plan.runs.map((r) => [r.id, r]));
  const ends = (id: string): [Spot, Spot] | null => {
    const run = runs.get(id);
    const [a, b] = [points.get(run?.a.point ?? ""), points.get(run?.b.point ?? "")];
    return a && b ? [a, b] : null;
  };
  const middle = (id: string): Spot | undefined => {
    const pair = ends(id);
    return pair ? { x: (pair[0].x + pair[1].x) / 2, y: (pair[0].y + pair[1].y) / 2 } : points.get(id);
  };
  const pins = new Map<string, number[]>();
  found.explanations.slice(0, 3).forEach((e, n) => {
    const first = e.places[0]?.[0] ?? "";
    pins.set(first, [...(pins.get(first) ?? []), n + 1]);
  });
  const next = found.next && points.get(found.next.point);
  return (
    <g pointerEvents="none" data-layer="fault">
      {found.explanations.slice(0, 3).map((e) =>
        e.places.flat().map((place) => {
          const pair = ends(place);
          return pair ? (
            <path
              key={`${e.kinds.join(" ")} ${place}`}
              d={`M${pair[0].x} ${pair[0].y}L${pair[1].x} ${pair[1].y}`}
              stroke="var(--color-dry)"
              strokeOpacity={0.08 + 0.3 * e.probability}
              strokeWidth={22}
            />
          ) : null;
        }),
      )}
      {found.readings.map((r) => {
        const at = points.get(r.point);
        const half = r.what === "takes" ? 64 : 44;
        return at ? (
          <g key={r.id} transform={`translate(${at.x} ${at.y - 46})`}>
            <path d="M0 14V46" stroke="var(--color-muted)" />
            <rect
              x={-half}
              y={-14}
              width={2 * half}
              height={28}
              rx={3}
              fill="var(--color-panel)"
              stroke={r.fits ? "var(--color-muted)" : "var(--color-dry)"}
              strokeWidth={r.fits ? 1 : 2}
            />
            <text
              textAnchor="middle"
              y={4}
              className="text-[12px] font-semibold"
              fill={r.fits ? "var(--color-ink)" : "var(--color-dry)"}
            >
              {r.what === "takes" && "takes "}
              {format(r.value, r.what === "pressure" ? "pressure" : "flow")}
            </text>
          </g>
        ) : null;
      })}
      {next && (
        <circle
          cx={next.x}
          cy={next.y}
          r={23}
          fill="none"
          stroke="var(--color-water)"
          strokeWidth={4}
          strokeDasharray="6 4"
        />
      )}
      {[...pins].map(([place, numbers]) => {
        const at = middle(place);
        const told = numbers.join(", ");
        const half = 11 + 8 * (numbers.length - 1);
        return at ? (
          <g key={place} transform={`translate(${at.x - 24} ${at.y - 18})`}>
            <rect
              x={-half}
              y={-11}
              width={2 * half}
              height={22}
              rx={11}
              fill="var(--color-dry-soft)"
              stroke="var(--color-dry)"
              strokeWidth={2}
            />
            <text textAnchor="middle" y={4.5} className="text-[13px] font-bold" fill="var(--color-dry)">
              {told}
            </text>
          </g>
        ) : null;
      })}
    </g>
  );
}
