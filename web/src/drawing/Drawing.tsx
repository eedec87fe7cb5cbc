import { useMemo, useRef } from "react";
import { useFormat, useReference } from "../app/context";
import { useJob, useReadyJob } from "../app/jobStore";
import { Button } from "../ui/parts";
import { dress, type Stage } from "./dress";
import { type Box, drawn, pointMap, toScreen } from "./geometry";
import { type Label, placeLabels } from "./labels";
import { Grid, Joints, Labels, Points, ScaleAndNorth, Throws } from "./layers";
import { Pipes } from "./Pipe";
import { useTools } from "./toolStore";
import { useDrawing } from "./useDrawing";
import { useView } from "./useView";

/** The one drawing. It stays through all stages and changes its dress. */
export function Drawing({ stage, scenario }: { stage: Stage; scenario: string }) {
  const { job, plan: edited } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const selected = useJob((s) => s.selected);
  const { tool, cursor } = useTools();
  const frame = useRef<HTMLDivElement>(null);
  const carried = useRef<SVGGElement>(null);
  const { view, fitAll, ...moves } = useView(frame, carried, edited.points, job.id);
  const { zoomBy } = moves;
  const hands = useDrawing({ view, editable: stage === "survey", ...moves });
  const { lifted } = hands;
  const plan = useMemo(() => {
    return lifted
      ? { ...edited, points: edited.points.map((p) => (p.id === lifted.id ? { ...p, ...lifted.at } : p)) }
      : edited;
  }, [edited, lifted]);

  const wear = useMemo(
    () => dress(stage, plan, job, reference, format, scenario),
    [stage, plan, job, reference, format, scenario],
  );
  const segments = useMemo(() => {
    const points = pointMap(plan);
    return plan.runs.flatMap((run) => {
      const [a, b] = [points.get(run.a), points.get(run.b)];
      if (!a || !b) return [];
      const choice = job.derived.sizes.choices[run.id];
      const series = reference.series.find((s) => s.id === (choice?.series ?? run.series ?? plan.conditions.series));
      const outside = series?.sizes.find((s) => s.size === choice?.size)?.outside ?? 0.034;
      const width = Math.max(9, outside * view.scale);
      const [from, to] = [toScreen(view, a), toScreen(view, b)];
      return drawn(view, from, to) ? [{ id: run.id, a: from, b: to, pattern: series?.pattern ?? "white", width }] : [];
    });
  }, [plan, job, reference, view]);
  const labels = useMemo(() => {
    const anchors: Label[] = plan.points.flatMap((p) => {
      const text = wear.points.get(p.id);
      const bold = p.what.kind !== "bend" && p.what.kind !== "junction";
      return text
        ? [{ key: p.id, at: toScreen(view, p), reach: 17, lines: text.lines, bold, tone: text.tone, must: text.must }]
        : [];
    });
    const middles: Label[] = segments.flatMap((s) => {
      const text = wear.runs.get(s.id);
      const long = Math.hypot(s.b.x - s.a.x, s.b.y - s.a.y) > 46;
      return text && (long || text.must)
        ? [
            {
              key: s.id,
              at: { x: (s.a.x + s.b.x) / 2, y: (s.a.y + s.b.y) / 2 },
              reach: 9,
              lines: text.lines,
              tone: text.tone,
              must: text.must,
            },
          ]
        : [];
    });
    const discs: Box[] = plan.points.map((p) => {
      const c = toScreen(view, p);
      return { x: c.x - 13, y: c.y - 13, w: 26, h: 26 };
    });
    anchors.sort((a, b) => Number(b.bold) - Number(a.bold));
    const free = { x: 4, y: 4, w: view.w - 8, h: view.h - 30 };
    return placeLabels(
      [...anchors, ...middles],
      segments.map((s) => [s.a, s.b] as const),
      discs,
      free,
    );
  }, [plan, view, wear, segments]);

  const cross = cursor ? toScreen(view, cursor) : null;
  const fromSpot = hands.from ? toScreen(view, hands.from) : null;
  const highlighted = new Set([selected, ...highlightOf(selected, job)]);
  return (
    <div
      ref={frame}
      className="relative h-full min-h-0 w-full touch-none overflow-hidden border border-line bg-panel"
      data-tool={tool.kind}
    >
      <svg
        width={view.w}
        height={view.h}
        className="block touch-none select-none data-[tool=pipe]:cursor-crosshair data-[tool=place]:cursor-copy"
        data-tool={tool.kind}
        role="application"
        aria-label={`Drawing of ${plan.name}: ${plan.points.length} points, ${plan.runs.length} runs. Arrow keys move the cross, Enter acts, question mark lists keys.`}
        tabIndex={0}
        onPointerDown={hands.onPointerDown}
        onPointerMove={hands.onPointerMove}
        onPointerUp={hands.onPointerUp}
        onPointerCancel={hands.onPointerUp}
        onKeyDown={hands.onKeyDown}
      >
        <g ref={carried}>
          <Grid view={view} />
          <Throws points={plan.points} view={view} />
          <Pipes segments={segments} active={highlighted} />
          <Points points={plan.points} view={view} selected={selected} />
          {wear.joints && (
            <Joints
              plan={plan}
              joints={job.derived.assembly.joints}
              readiness={job.readiness}
              view={view}
              selected={selected}
            />
          )}
          <Labels labels={labels} />
          {fromSpot && cross && (
            <line
              x1={fromSpot.x}
              y1={fromSpot.y}
              x2={cross.x}
              y2={cross.y}
              stroke="var(--color-water)"
              strokeWidth={2}
              strokeDasharray="6 5"
              pointerEvents="none"
            />
          )}
          {cross && (
            <path
              d={`M${cross.x - 10} ${cross.y}h20M${cross.x} ${cross.y - 10}v20`}
              stroke="var(--color-water)"
              strokeWidth={2}
              pointerEvents="none"
            />
          )}
        </g>
        <ScaleAndNorth view={view} />
      </svg>
      {plan.points.length === 0 && <Empty />}
      <div className="absolute right-2 bottom-2 flex gap-1">
        <Button aria-label="Zoom in" className="w-9" onClick={() => zoomBy(1.4)}>
          +
        </Button>
        <Button aria-label="Zoom out" className="w-9" onClick={() => zoomBy(1 / 1.4)}>
          −
        </Button>
        <Button onClick={fitAll}>All</Button>
      </div>
    </div>
  );
}

/** A chosen piece or section lights up all its runs; a chosen joint its run. */
function highlightOf(
  selected: string | null,
  job: { derived: { cuts: { pieces: { id: string; runs: string[] }[] }; sections: { id: string; runs: string[] }[] } },
): string[] {
  if (!selected) return [];
  const piece = job.derived.cuts.pieces.find((p) => p.id === selected);
  const section = job.derived.sections.find((s) => s.id === selected);
  return piece?.runs ?? section?.runs ?? [];
}

function Empty() {
  return (
    <div className="pointer-events-none absolute inset-0 grid place-items-center p-6">
      <p className="max-w-80 bg-panel/80 p-3 text-center text-muted">
        Nothing is drawn yet. Take a <b className="text-ink">source</b> from the sheet and set it down, then draw the
        pipe to where the water goes.
      </p>
    </div>
  );
}
