import { useCallback, useEffect, useMemo, useRef } from "react";
import type { Stage } from "../api/types";
import { useProblems, useReadyJob, useStands } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { isHeadAt, isPlain } from "../job/kinds";
import { useFormat, useReference } from "../ui/context";
import { Button } from "../ui/parts";
import { useSmall } from "../ui/useSmall";
import { ArcHandles } from "./ArcHandles";
import { Beneath } from "./Beneath";
import { Bodies, jointSpot, useBodies } from "./Bodies";
import { cutOut, type Detail } from "./details";
import { dress } from "./dress";
import { Emitters } from "./Emitters";
import { FaultPins } from "./FaultPins";
import { type Box, type Spot, toScreen } from "./geometry";
import { Hands } from "./Hands";
import { chosenSpot, cornersOf, highlightOf, segmentsOf, wrongPlaces } from "./inSight";
import { LeavingLines } from "./LeavingLines";
import { type Label, type Placed, placeLabels } from "./labels";
import { Grid, Grounds, Joints, Labels, Points, ScaleAndNorth, Throws } from "./layers";
import { Marks } from "./Marks";
import { MeasureBar } from "./MeasureBar";
import { Pipes } from "./Pipe";
import { flat, seenPlan, viewWords } from "./projection";
import { Spoken } from "./Spoken";
import { useTools } from "./toolStore";
import { Underlay } from "./Underlay";
import { useDrawing } from "./useDrawing";
import { useView } from "./useView";
import { Compass } from "./ViewSwitch";
import { useLook } from "./viewStore";
import { Watered } from "./Watered";
import { Waters } from "./Waters";

/** The one drawing. It stays through all stages and changes its dress. */
export function Drawing({ stage, scenario }: { stage: Stage; scenario: string }) {
  const { job, plan: edited, derived } = useReadyJob();
  const readiness = useStands()?.readiness ?? null;
  const looks = useJob((s) => s.looks);
  const reference = useReference();
  const format = useFormat();
  const selected = useJob((s) => s.selected);
  const { tool, cursor, chosen } = useTools();
  const frame = useRef<HTMLDivElement>(null);
  const carried = useRef<SVGSVGElement>(null);
  const small = useSmall();
  const { how, open, detail: named, placed } = useLook();
  useEffect(() => open(job.id), [open, job.id]);
  const detail = (edited.details as Detail[]).find((d) => d.name === named) ?? null;
  const cut = useMemo(() => cutOut(edited, detail), [edited, detail]);
  const shown = useMemo(() => seenPlan(how, cut.plan), [how, cut]);
  const rims = derived.lines.waters;
  const fitted = useMemo(() => {
    const inside: Spot[] = shown.points.filter((p) => cut.inside.has(p.id));
    const waters = Object.entries(rims).flatMap(([id, b]) =>
      cut.inside.has(id) ? b.rim.map(([x, y]) => flat(how, { x, y, z: b.top })) : [],
    );
    return inside.length > 1 || how.kind !== "above"
      ? [...inside, ...waters]
      : [...inside, ...waters, ...cornersOf(edited.underlay)];
  }, [shown, cut, how, edited.underlay, rims]);
  const key = `${job.id} ${JSON.stringify(how)} ${detail?.name ?? ""}`;
  const across = reference.beginnings.find((b) => b.about === edited.about)?.across;
  const { view, fitAll, ...moves } = useView(frame, carried, fitted, key, placed, across);
  const { zoomBy } = moves;
  const hands = useDrawing({ view, how, shown, editable: stage === "survey", ...moves });
  const { lifted } = hands;
  const plan = useMemo(() => {
    return lifted
      ? { ...shown, points: shown.points.map((p) => (p.id === lifted.id ? { ...p, ...lifted.at } : p)) }
      : shown;
  }, [shown, lifted]);

  const wear = useMemo(
    () => dress({ stage, plan: edited, derived, readiness, reference, format, scenario }),
    [stage, edited, derived, readiness, reference, format, scenario],
  );
  const { series } = derived.lines;
  const segments = useMemo(
    () => segmentsOf(plan, looks, series, reference, view),
    [plan, looks, series, reference, view],
  );
  const shop = useBodies(view);
  const held = shop.bodies;
  const spotOf = useCallback((id: string) => jointSpot(shop.joints, id, how, view), [shop.joints, how, view]);
  const jointIds = useMemo(() => new Set<string | null>(derived.joints.map((j) => j.id)), [derived.joints]);
  const chosenJoint = jointIds.has(selected) ? selected : null;
  // near enough to hold, the drawing is the shop drawing: pipe is labelled with what is cut
  const cutAt = useMemo(
    () =>
      new Map(
        (held.length ? derived.cuts.pieces : []).flatMap((p) =>
          p.runs[0] ? [[p.runs[0], `cut ${format(p.length, "cut")}`] as const] : [],
        ),
      ),
    [held, derived.cuts, format],
  );
  const before = useRef<readonly Placed[]>([]);
  const labels = useMemo(() => {
    const anchors: Label[] = plan.points.flatMap((p) => {
      const text = wear.points.get(p.id);
      const bold = !isPlain(reference, p);
      return text
        ? [{ key: p.id, at: toScreen(view, p), reach: 17, lines: text.lines, bold, tone: text.tone, must: text.must }]
        : [];
    });
    const middles: Label[] = segments.flatMap((s) => {
      const near = cutAt.get(s.id);
      const text = near ? { lines: [near] } : wear.runs.get(s.id);
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
    // the buttons that lie over the drawing: in two rows where it is narrow
    discs.push({ x: 0, y: 0, w: Math.min(view.w, 480), h: view.w < 640 ? 104 : 46 });
    discs.push({ x: view.w - 136, y: view.h - (small ? 104 : 52), w: 136, h: small ? 104 : 52 });
    anchors.sort((a, b) => Number(b.bold) - Number(a.bold));
    const top = view.w < 640 ? 104 : 4; // where it is narrow, what must be said is not said beneath the buttons either
    const free = { x: 4, y: top, w: view.w - 8, h: view.h - 26 - top };
    return placeLabels(
      [...anchors, ...middles],
      segments.map((s) => [s.a, s.b] as const),
      discs,
      free,
      lifted ? before.current : [],
    );
  }, [plan, view, wear, segments, reference, cutAt, small, lifted]);
  useEffect(() => {
    before.current = labels;
  }, [labels]);

  const problems = useProblems();
  const wrong = useMemo(() => wrongPlaces(edited, problems), [edited, problems]);
  const thrower =
    stage === "survey" && tool.kind === "select" && how.kind === "above" && !lifted
      ? edited.points.filter(isHeadAt).find((p) => p.id === selected && p.what.radius > 0)
      : undefined;
  const cross = cursor ? toScreen(view, cursor) : null;
  const fromSpot = hands.from ? toScreen(view, hands.from) : null; // as it is seen
  const together = useMemo(() => new Set(tool.kind === "frame" ? chosen : []), [tool, chosen]);
  const inGroup = edited.runs.flatMap((r) => (together.has(r.a.point) && together.has(r.b.point) ? [r.id] : []));
  const highlighted = new Set([selected, ...highlightOf(selected, derived), ...together, ...inGroup]);
  return (
    <div className="relative flex h-full min-h-0 flex-col">
      <div
        ref={frame}
        className="relative min-h-0 w-full flex-1 touch-none overflow-hidden border border-line bg-panel contain-strict"
        data-tool={tool.kind}
      >
        <svg
          ref={carried}
          width={view.w}
          height={view.h}
          className="block touch-none select-none overflow-visible contain-layout will-change-transform data-[tool=pipe]:cursor-crosshair data-[tool=place]:cursor-copy"
          data-tool={tool.kind}
          role="application"
          aria-label={`Drawing of ${plan.name}, ${viewWords(how)}: ${plan.points.length} points, ${plan.runs.length} runs. Arrow keys move the cross, Enter acts, Ctrl and arrows go along the pipe, question mark lists keys.`}
          tabIndex={0}
          onPointerDown={hands.onPointerDown}
          onPointerMove={hands.onPointerMove}
          onPointerUp={hands.onPointerUp}
          onPointerCancel={hands.onPointerUp}
          onKeyDown={hands.onKeyDown}
        >
          <g>
            {edited.underlay && how.kind === "above" && (
              <Underlay
                under={edited.underlay as Parameters<typeof Underlay>[0]["under"]}
                spots={tool.kind === "scale" ? tool.spots : []}
                view={view}
              />
            )}
            {how.kind !== "standing" && <Grid view={view} />}
            {stage === "size" && how.kind === "above" && derived.watered[scenario] && (
              <Watered found={derived.watered[scenario]} view={view} />
            )}
            {how.kind === "above" && <Throws points={plan.points} view={view} />}
            {how.kind === "side" && <Grounds points={cut.plan.points} how={how} view={view} />}
            <Waters of={derived.lines.waters} how={how} view={view} />
            <Marks points={cut.plan.points} how={how} view={view} />
            {how.kind === "above" && plan.leaving.length > 0 && (
              <LeavingLines leaving={plan.leaving} points={plan.points} view={view} />
            )}
            <Pipes segments={segments} active={highlighted} />
            <Emitters of={derived.lines.emitters} how={how} view={view} />
            <Bodies bodies={held} wrong={wrong} how={how} view={view} />
            <Points
              plan={plan}
              reference={reference}
              view={view}
              selected={selected}
              together={together}
              bare={held.length > 0}
            />
            {wear.joints && readiness && (
              <Joints
                plan={plan}
                joints={derived.joints}
                readiness={readiness}
                view={view}
                selected={chosenJoint}
                spot={spotOf}
              />
            )}
            <Labels labels={labels} />
            {how.kind === "above" && <FaultPins plan={plan} view={view} />}
            <Hands job={job.id} plan={plan} joints={derived.joints} view={view} />
            {thrower && <ArcHandles head={thrower} view={view} />}
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
            {cross && hands.foreseen?.says && (
              <Said
                at={cross}
                says={hands.foreseen.says}
                right={cross.x > view.w - 260 || (fromSpot !== null && fromSpot.x > cross.x && cross.x > 260)}
              />
            )}
            {hands.foreseen?.ring && (
              <circle
                cx={toScreen(view, hands.foreseen.ring).x}
                cy={toScreen(view, hands.foreseen.ring).y}
                r={21}
                fill="none"
                stroke="var(--color-water)"
                strokeWidth={3}
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
          {hands.frame && (
            <rect
              x={hands.frame.x}
              y={hands.frame.y}
              width={hands.frame.w}
              height={hands.frame.h}
              fill="var(--color-water)"
              fillOpacity={0.08}
              stroke="var(--color-water)"
              strokeDasharray="6 4"
              pointerEvents="none"
            />
          )}
        </svg>
        <Spoken />
        <svg width={view.w} height={view.h} className="pointer-events-none absolute inset-0" aria-hidden="true">
          <ScaleAndNorth view={view} north={how.kind === "above"} />
          <Compass how={how} x={view.w - 50} y={64} />
        </svg>
        {hands.beneath && <Beneath things={hands.beneath} room={view} onClose={hands.closeBeneath} />}
        {plan.points.length === 0 && <Empty />}
        {tool.kind === "pipe" && tool.from && (
          <Button
            className="absolute top-16 left-2"
            onClick={() => useTools.getState().take({ kind: "pipe", from: null })}
          >
            End the pipe
          </Button>
        )}
        {tool.kind === "part" && hands.says && (
          <p role="status" className="absolute bottom-14 left-2 border border-line bg-panel px-2 py-1">
            {hands.says}
          </p>
        )}
        <div className="absolute right-2 bottom-2 flex w-40 flex-wrap justify-end gap-1">
          {small && stage === "survey" && <UndoRedo />}
          <Button
            aria-label="Zoom in"
            className="w-9"
            onClick={() => zoomBy(1.4, chosenSpot(plan, selected, derived, view), true)}
          >
            +
          </Button>
          <Button aria-label="Zoom out" className="w-9" onClick={() => zoomBy(1 / 1.4)}>
            −
          </Button>
          <Button onClick={fitAll}>All</Button>
        </div>
      </div>
      {stage === "survey" && tool.kind !== "frame" && !small && <MeasureBar />}
    </div>
  );
}

/** On a phone the way back lies over the drawing, where the thumb is. */
function UndoRedo() {
  const { undo, redo, history } = useJob();
  return (
    <div className="flex w-full justify-end gap-1">
      <Button aria-label="Undo" className="w-11" disabled={!history.done.length} onClick={undo}>
        ↶
      </Button>
      <Button aria-label="Redo" className="w-11" disabled={!history.undone.length} onClick={redo}>
        ↷
      </Button>
    </div>
  );
}

/** What a press would do, beside the cross. */
function Said({ at, says, right }: { at: Spot; says: string; right: boolean }) {
  return (
    <text
      x={at.x + (right ? -14 : 14)}
      y={at.y - 14}
      textAnchor={right ? "end" : "start"}
      fontSize={13}
      fontWeight={600}
      fill="var(--color-water)"
      stroke="var(--color-panel)"
      strokeWidth={4}
      paintOrder="stroke"
      pointerEvents="none"
      data-foreseen
    >
      {says}
    </text>
  );
}

function Empty() {
  return (
    <div className="pointer-events-none absolute inset-0 grid place-items-center p-6">
      <div className="max-w-80 bg-panel/80 p-3 text-muted">
        <p className="font-semibold text-ink">Nothing is drawn yet.</p>
        <ol className="list-decimal pl-5">
          <li>
            Take what the <b className="text-ink">water comes from</b>, and set it down here.
          </li>
          <li>Set down where the water goes to.</li>
          <li>Draw the pipe between, or type its measures.</li>
        </ol>
        <p className="mt-2">
          Or type the whole line: press <b className="text-ink">Draw by measure</b> below.
        </p>
      </div>
    </div>
  );
}
