import { memo } from "react";
import { CROWD, type Spot } from "./geometry";

export type Segment = { id: string; a: Spot; b: Spot; pattern: string; width: number };

const fills: Record<string, string> = { white: "pipe-white", dark: "pipe-dark", grey: "pipe-grey", thin: "pipe-thin" };

/**
 * Runs drawn with two walls, each over the one before, so that one that passes another is seen to pass.
 *
 * In a crowd, where none can be told from the next, all of one kind are one stroke, so that a hand can drag them smoothly.
 */
export function Pipes({ segments, active }: { segments: readonly Segment[]; active: ReadonlySet<string | null> }) {
  const kind = (s: Segment) =>
    segments.length > CROWD ? `${s.pattern} ${s.width.toFixed(1)} ${active.has(s.id)}` : s.id;
  const groups = new Map<string, Segment[]>();
  for (const s of segments) {
    const mine = groups.get(kind(s));
    if (mine) mine.push(s);
    else groups.set(kind(s), [s]);
  }
  return [...groups].map(([key, [first, ...more]]) => {
    if (!first) return null;
    const d = [first, ...more].map(({ a, b }) => `M${a.x} ${a.y}L${b.x} ${b.y}`).join("");
    return <Pipe key={key} d={d} pattern={first.pattern} width={first.width} active={active.has(first.id)} />;
  });
}

type PipeProps = { d: string; pattern: string; width: number; active: boolean };

/** The material is told by pattern as well as shade; what exists already is broken, what is screwed together has no pipe. */
const Pipe = memo(function Pipe({ d, pattern, width, active }: PipeProps) {
  if (pattern === "coupled")
    return (
      <g pointerEvents="none" fill="none">
        {active && <path d={d} stroke="var(--color-water)" strokeWidth={width + 9} strokeOpacity={0.35} />}
        <path d={d} stroke="var(--color-ink)" strokeWidth={5} strokeDasharray="2 2.500" />
        <path d={d} stroke="var(--color-ink)" strokeWidth={1.6} />
      </g>
    );
  const wall = Math.max(1.4, width * 0.13);
  const bore = width - 2 * wall;
  const fill = fills[pattern] ?? "pipe-white";
  return (
    <g pointerEvents="none" fill="none">
      {active && (
        <path d={d} stroke="var(--color-water)" strokeWidth={width + 9} strokeOpacity={0.35} strokeLinecap="round" />
      )}
      <path
        d={d}
        stroke={pattern === "existing" ? "var(--color-muted)" : "var(--color-ink)"}
        strokeWidth={width}
        strokeDasharray={pattern === "existing" ? "9 4" : undefined}
      />
      <path d={d} stroke={`var(--color-${fill})`} strokeWidth={bore} />
      {pattern === "dark" && (
        <path
          d={d}
          stroke="var(--color-pipe-streak)"
          strokeWidth={Math.max(1.2, width * 0.16)}
          strokeDasharray="12 6"
        />
      )}
      {pattern === "thin" && <path d={d} stroke="var(--color-ink)" strokeWidth={1} strokeDasharray="2 5" />}
    </g>
  );
});
