import type { EndView, ShopPart } from "../api/types";
import { fills } from "./SectionDrawing";
import { arms, centreOf, type Drawable, section } from "./section";

type BranchedProps = { part: ShopPart; left: EndView; right: EndView; pixelsPerMm: number | null };

/** A part with more than two openings, cut through in the plane of its branches, to hold the real one against. */
export function BranchedDrawing({ part, left, right, pixelsPerMm }: BranchedProps) {
  const way: Drawable = { parts: [{ name: part.name, material: part.material, left, right, length: part.length }] };
  const run = section(way);
  const [body] = run.shapes;
  if (!body) return null;
  const centre = centreOf(left, part.stop);
  const others = arms(part.branches, left);
  const far = (turn: number) => (reach: number, wide: number) => ({
    x: Math.cos((turn * Math.PI) / 180) * reach,
    y: Math.sin((turn * Math.PI) / 180) * reach,
    wide,
  });
  const tips = others.map((a) => far(a.turn)(a.reach, a.way));
  const up = Math.max(run.height / 2, ...tips.map((t) => -t.y + t.wide)) + 3;
  const down = Math.max(run.height / 2, ...tips.map((t) => t.y + t.wide)) + 3;
  const before = Math.max(0, ...tips.map((t) => -(centre + t.x) + t.wide)) + 2;
  const after = Math.max(run.width, ...tips.map((t) => centre + t.x + t.wide)) + 2;
  const [width, height] = [before + after, up + down];
  const size = pixelsPerMm ? { width: width * pixelsPerMm, height: height * pixelsPerMm } : { width: "100%" };
  const look = {
    fill: fills[part.material] ?? "var(--color-soil)",
    stroke: "var(--color-ink)",
    strokeWidth: 0.6,
    strokeLinejoin: "round",
  } as const;
  return (
    <div className={pixelsPerMm ? "overflow-x-auto" : ""}>
      <svg
        viewBox={`${-before} ${-up} ${width} ${height}`}
        {...size}
        style={{ maxHeight: pixelsPerMm ? undefined : 260 }}
        role="img"
        aria-label={`Section: ${part.name}`}
      >
        {[body.outline, body.bore].map((d) => (
          <path key={d} d={d} {...look} />
        ))}
        {others.map((a) => (
          <g key={a.turn} transform={`translate(${centre} 0) rotate(${a.turn})`}>
            <rect x={0} y={-a.opening} width={a.reach - 1} height={2 * a.opening} fill="var(--color-panel)" />
            {[a.outline, a.bore].map((d) => (
              <path key={d} d={d} {...look} />
            ))}
          </g>
        ))}
      </svg>
    </div>
  );
}
