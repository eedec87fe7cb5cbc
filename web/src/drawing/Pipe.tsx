import type { Spot } from "./geometry";

/** A run drawn with two walls; the material is told by pattern as well as shade. */
export function Pipe({
  a,
  b,
  pattern,
  width,
  active,
}: {
  a: Spot;
  b: Spot;
  pattern: string;
  width: number;
  active: boolean;
}) {
  const line = { x1: a.x, y1: a.y, x2: b.x, y2: b.y };
  const wall = Math.max(1.4, width * 0.13);
  const bore = width - 2 * wall;
  const fill =
    { white: "pipe-white", dark: "pipe-dark", grey: "pipe-grey", thin: "pipe-thin" }[pattern] ?? "pipe-white";
  return (
    <g pointerEvents="none">
      {active && (
        <line
          {...line}
          stroke="var(--color-water)"
          strokeWidth={width + 9}
          strokeOpacity={0.35}
          strokeLinecap="round"
        />
      )}
      <line {...line} stroke="var(--color-ink)" strokeWidth={width} />
      <line {...line} stroke={`var(--color-${fill})`} strokeWidth={bore} />
      {pattern === "dark" && (
        <line
          {...line}
          stroke="var(--color-pipe-streak)"
          strokeWidth={Math.max(1.2, width * 0.16)}
          strokeDasharray="12 6"
        />
      )}
      {pattern === "thin" && <line {...line} stroke="var(--color-ink)" strokeWidth={1} strokeDasharray="2 5" />}
    </g>
  );
}
