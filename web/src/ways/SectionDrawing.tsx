import type { Way } from "../api/types";
import { JointDisc } from "../drawing/joints";
import { section } from "./section";

export const fills: Record<string, string> = {
  pvc: "var(--color-pipe-white)",
  pe: "var(--color-pipe-dark)",
  pe100: "var(--color-pipe-dark)",
  drip: "var(--color-pipe-dark)",
  steel: "var(--color-pipe-grey)",
  ppr: "var(--color-pipe-grey)",
  brass: "var(--color-curing-soft)",
};

type SectionProps = { way: Way; pixelsPerMm: number | null; step: number };

/** The stack as an exploded section to scale; at life size when the screen's own scale is known. */
export function SectionDrawing({ way, pixelsPerMm, step }: SectionProps) {
  const drawn = section(way);
  const head = 16;
  const width = drawn.width + 4;
  const height = drawn.height + head + 6;
  const size = pixelsPerMm ? { width: width * pixelsPerMm, height: height * pixelsPerMm } : { width: "100%" };
  const middle = head + drawn.height / 2;
  return (
    <div className={pixelsPerMm ? "overflow-x-auto" : ""}>
      <svg
        viewBox={`-2 0 ${width} ${height}`}
        {...size}
        style={{ maxHeight: pixelsPerMm ? undefined : 230 }}
        role="img"
        aria-label={`Exploded section: ${way.parts.map((p) => p.name).join(", ")}; ${Math.round(drawn.width)} mm long as drawn`}
      >
        <line
          x1={-2}
          x2={width}
          y1={middle}
          y2={middle}
          stroke="var(--color-muted)"
          strokeWidth={0.35}
          strokeDasharray="5 1.500 1 1.500"
        />
        {drawn.shapes.map((s) => (
          <g key={s.key} transform={`translate(${s.x} ${middle})`}>
            {[s.outline, s.bore].map((d) => (
              <path
                key={d}
                d={d}
                fill={fills[s.material] ?? "var(--color-soil)"}
                stroke="var(--color-ink)"
                strokeWidth={0.6}
                strokeLinejoin="round"
              />
            ))}
            <title>{s.label}</title>
          </g>
        ))}
        {drawn.joints.map((j) => (
          <g key={j.index} transform={`translate(${j.x} 7) scale(${j.index === step ? 0.62 : 0.48})`}>
            <JointDisc method={way.joints[j.index]?.method ?? ""} state={j.index === step ? "dry" : "planned"} />
          </g>
        ))}
      </svg>
    </div>
  );
}
