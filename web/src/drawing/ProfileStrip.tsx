import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import type { ProfilePoint } from "../api/types";
import { useReadyJob, useSaved } from "../job/hooks";
import { isEnd, isOutlet, isSource, nameOf } from "../job/kinds";
import { useFormat, useReference } from "../ui/context";
import { Pick } from "../ui/parts";
import { FOOT, niceStep } from "./geometry";

/** Ground, pipe and hydraulic grade along a way through the line, to scale. */
export function ProfileStrip({ scenario }: { scenario: string }) {
  const { job, plan, derived } = useReadyJob();
  const reference = useReference();
  const saved = useSaved();
  const [start, setStart] = useState<string | null>(null);
  const [stop, setStop] = useState<string | null>(null);
  const flow = derived.sizes.flows[scenario];
  const piped = new Set(plan.runs.flatMap((r) => [r.a.point, r.b.point]));
  const along = plan.points.filter((p) => piped.has(p.id));
  const known = new Set(along.map((p) => p.id));
  const last = along.filter((p) => isOutlet(reference, p)).at(-1) ?? along.filter((p) => isEnd(reference, p)).at(-1);
  const worst = flow?.worst ?? last?.id ?? along.at(-1)?.id ?? "";
  const b = stop && known.has(stop) ? stop : worst;
  const line = derived.lines.systems.find((s) => s.points.includes(b));
  const sources = along.filter((p) => isSource(reference, p));
  const usual = sources.find((p) => line?.points.includes(p.id)) ?? sources[0] ?? along[0];
  const a = start && known.has(start) ? start : (usual?.id ?? "");
  const query = useQuery({
    queryKey: ["profile", job.id, job.revision, a, b, scenario],
    queryFn: () => api.profile(job.id, a, b, scenario),
    enabled: Boolean(a && b && a !== b && saved && known.has(a) && known.has(b)),
    placeholderData: (before) => before,
  });
  const options = along.map((p) => [p.id, nameOf(reference, p)] as const);
  const points = query.data ?? [];
  return (
    <section aria-label="Long section" className="flex h-full min-h-0 flex-col border border-line bg-panel px-3 pt-2">
      <div className="flex flex-wrap items-center gap-x-2 text-[0.8125rem]">
        <Pick label="From" hideLabel options={options} value={a} onPick={setStart} className="w-40" />
        <span>to</span>
        <Pick label="To" hideLabel options={options} value={b} onPick={setStop} className="w-40" />
        <span className="ml-auto text-muted">{flow?.name}</span>
      </div>
      {points.length > 1 ? (
        <Chart points={points} />
      ) : (
        <p className="grid flex-1 place-items-center text-muted">
          {query.isSuccess && along.length > 1
            ? "No way leads from one to the other."
            : query.isFetching
              ? "Loading profile…"
              : "The long section shows here."}
        </p>
      )}
    </section>
  );
}

function Chart({ points }: { points: readonly ProfilePoint[] }) {
  const format = useFormat();
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ w: 0, h: 0 });
  useEffect(() => {
    if (!frame.current) return;
    const watch = new ResizeObserver(([e]) => e && setSize({ w: e.contentRect.width, h: e.contentRect.height }));
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  const { w, h } = size;
  const pad = { l: 52, r: 14, t: 22, b: 20 };
  const length = points.at(-1)?.distance || 1;
  const graded = points.every((p) => p.grade !== null);
  const levels = points.flatMap((p) => [p.ground, p.pipe, ...(p.grade === null ? [] : [p.grade])]);
  const [low, high] = [Math.min(...levels) - 1, Math.max(...levels) + 1];
  const sx = (w - pad.l - pad.r) / length;
  const sy = (h - pad.t - pad.b) / (high - low || 1);
  const x = (d: number) => pad.l + d * sx;
  const y = (z: number) => h - pad.b - (z - low) * sy;
  const path = (pick: (p: ProfilePoint) => number) =>
    points.map((p, i) => `${i ? "L" : "M"}${x(p.distance).toFixed(1)} ${y(pick(p)).toFixed(1)}`).join("");
  const unit = format.system === "us" ? FOOT : 1;
  const ticks = (from: number, to: number, scale: number, least: number) => {
    const step = niceStep(scale * unit, least);
    const found: number[] = [];
    for (let n = Math.ceil(from / unit / step); n * step <= to / unit; n += 1)
      found.push(Number((n * step).toPrecision(6))); // 3 × 0.2 is not 0.6 to a machine
    return found;
  };
  return (
    <div ref={frame} className="relative min-h-0 flex-1">
      <p className="absolute top-0 left-14 text-[0.75rem] text-muted">
        distance in {format.unit("length")}, heights ×{Number((sy / sx).toPrecision(2))}
      </p>
      {w > 80 && h > 40 && (
        <svg
          width={w}
          height={h}
          role="img"
          aria-label={`Long section over ${format(length, "length")}, heights ${Number((sy / sx).toPrecision(2))} times`}
        >
          {ticks(low, high, sy, 26).map((t) => (
            <g key={`y${t}`} fontSize={11.5} fill="var(--color-muted)">
              <line
                x1={pad.l}
                x2={w - pad.r}
                y1={y(t * unit)}
                y2={y(t * unit)}
                stroke="var(--color-line)"
                strokeOpacity={0.6}
              />
              <text x={pad.l - 5} y={y(t * unit) + 4} textAnchor="end">
                {t} {format.unit("length")}
              </text>
            </g>
          ))}
          <path
            d={`${path((p) => p.ground)}L${x(length)} ${h - pad.b}L${pad.l} ${h - pad.b}Z`}
            fill="var(--color-soil)"
          />
          <path d={path((p) => p.ground)} fill="none" stroke="var(--color-soil-line)" strokeWidth={1.5} />
          <path d={path((p) => p.pipe)} fill="none" stroke="var(--color-ink)" strokeWidth={4} strokeLinejoin="round" />
          {graded && (
            <path d={path((p) => p.grade ?? p.pipe)} fill="none" stroke="var(--color-water)" strokeWidth={2.2} />
          )}
          {graded && (
            <text
              x={x(length)}
              y={y(points.at(-1)?.grade ?? 0) - 5}
              textAnchor="end"
              fontSize={12}
              fill="var(--color-water)"
            >
              hydraulic grade
            </text>
          )}
          {points.map((p) => (
            <circle
              key={p.point}
              cx={x(p.distance)}
              cy={y(p.pipe)}
              r={3.4}
              fill="var(--color-panel)"
              stroke="var(--color-ink)"
              strokeWidth={1.6}
            >
              <title>{p.name}</title>
            </circle>
          ))}
          {ticks(0, length, sx, 70).map((t) => (
            <text key={`x${t}`} x={x(t * unit)} y={h - 5} fontSize={11.5} textAnchor="middle" fill="var(--color-muted)">
              {t}
            </text>
          ))}
        </svg>
      )}
    </div>
  );
}
