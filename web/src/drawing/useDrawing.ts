import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Point } from "../api/types";
import { addPoint, addRun, changePoint, removePoint, removeRun, replacePoint, splitRun, turnRound } from "../job/edits";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { isPlain } from "../job/kinds";
import { useReference } from "../ui/context";
import { nearestOn, pointMap, type Spot, snap, toScreen, toWorld, type View } from "./geometry";
import { useSnap, useTools } from "./toolStore";

type Hit = { kind: "point"; point: Point } | { kind: "run"; id: string; at: Spot } | { kind: "nothing" };
type Drag = { kind: "pan"; x: number; y: number; moved: boolean } | { kind: "point"; id: string; moved: boolean };

type Moves = {
  view: View;
  editable: boolean;
  panBy: (dx: number, dy: number) => void;
  glide: (dx: number, dy: number) => void;
  settle: () => void;
  zoomBy: (factor: number, about?: Spot) => void;
};

/** What pointer and keys do on the drawing. A key's Enter does what a click does at the cross. */
export function useDrawing({ view, editable, panBy, glide, settle, zoomBy }: Moves) {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const selected = useJob((s) => s.selected);
  const { tool, take, cursor, setCursor } = useTools();
  const snapping = useSnap(plan.units);
  const drag = useRef<Drag | null>(null);
  const touches = useRef(new Map<number, Spot>());
  const [lifted, setLifted] = useState<{ id: string; at: Spot } | null>(null);
  const points = pointMap(plan);

  const hit = (at: Spot, coarse: boolean): Hit => {
    const reach = coarse ? 24 : 14;
    let best: Hit = { kind: "nothing" };
    let least = reach;
    for (const point of plan.points) {
      const p = toScreen(view, point);
      const d = Math.hypot(p.x - at.x, p.y - at.y);
      if (d <= least) [best, least] = [{ kind: "point", point }, d];
    }
    if (best.kind === "point") return best;
    least = coarse ? 18 : 10;
    for (const run of plan.runs) {
      const [a, b] = [points.get(run.a.point), points.get(run.b.point)];
      if (!a || !b) continue;
      const near = nearestOn(toScreen(view, a), toScreen(view, b), at);
      if (near.distance <= least)
        [best, least] = [{ kind: "run", id: run.id, at: toWorld(view, near.at) }, near.distance];
    }
    return best;
  };

  const from = tool.kind === "pipe" && tool.from ? (points.get(tool.from) ?? null) : null;

  /** A click, or Enter at the cross, with the tool in hand. */
  const act = (at: Spot, coarse = false) => {
    const place = snap(toWorld(view, at), snapping, from);
    const touched = hit(at, coarse);
    // what the grid brings to the very place of a thing is that thing: nothing is set down unseen on top of another
    const there =
      touched.kind === "nothing" ? plan.points.find((p) => Math.hypot(p.x - place.x, p.y - place.y) < SAME) : null;
    const found: Hit = there && tool.kind !== "select" ? { kind: "point", point: there } : touched;
    if (tool.kind === "select" || !editable) {
      select(found.kind === "point" ? found.point.id : found.kind === "run" ? found.id : null);
      return;
    }
    if (tool.kind === "place") {
      if (found.kind === "point") {
        if (isPlain(reference, found.point))
          edit((p) => replacePoint(p, reference, found.point.id, tool.what, derived.lines));
        select(found.point.id);
        return;
      }
      edit((p) => {
        const on = found.kind === "run";
        const [next, point] = on
          ? splitRun(p, reference, derived.lines, found.id, tool.what, tidy(found.at))
          : addPoint(p, reference, tool.what, place);
        select(point.id);
        return next;
      });
      return;
    }
    drawPipe(found, place);
  };

  const drawPipe = (found: Hit, place: Spot) => {
    let end = found.kind === "point" ? found.point.id : "";
    edit((p) => {
      let next = p;
      if (!end) {
        const made =
          found.kind === "run"
            ? splitRun(next, reference, derived.lines, found.id, "junction", tidy(found.at))
            : addPoint(next, reference, "bend", place);
        next = made[0];
        end = made[1].id;
      }
      if (from) next = addRun(next, reference, derived.lines, from.id, end)[0];
      return next;
    });
    take({ kind: "pipe", from: end });
    select(end);
  };

  const local = (e: PointerEvent<Element>): Spot => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };

  const onPointerDown = (e: PointerEvent<SVGSVGElement>) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const at = local(e);
    touches.current.set(e.pointerId, at);
    const found = hit(at, e.pointerType === "touch");
    const movable = editable && tool.kind === "select" && found.kind === "point";
    drag.current = movable ? { kind: "point", id: found.point.id, moved: false } : { kind: "pan", ...at, moved: false };
  };

  const onPointerMove = (e: PointerEvent<SVGSVGElement>) => {
    const at = local(e);
    if (tool.kind !== "select" && !drag.current?.moved) setCursor(snap(toWorld(view, at), snapping, from));
    const before = touches.current.get(e.pointerId);
    if (!before || !drag.current) return;
    if (touches.current.size === 2) {
      settle();
      pinch(e.pointerId, before, at);
      return;
    }
    touches.current.set(e.pointerId, at);
    if (drag.current.kind === "pan") {
      if (Math.hypot(at.x - drag.current.x, at.y - drag.current.y) > 4) drag.current.moved = true;
      if (drag.current.moved) glide(at.x - before.x, at.y - before.y);
      return;
    }
    drag.current.moved = true;
    setLifted({ id: drag.current.id, at: snap(toWorld(view, at), { ...snapping, angle: false }, null) });
  };

  const pinch = (id: number, before: Spot, at: Spot) => {
    const other = [...touches.current].find(([k]) => k !== id)?.[1];
    touches.current.set(id, at);
    if (!other) return;
    const spread = (p: Spot) => Math.hypot(p.x - other.x, p.y - other.y) || 1;
    if (drag.current) drag.current.moved = true;
    zoomBy(spread(at) / spread(before), { x: (at.x + other.x) / 2, y: (at.y + other.y) / 2 });
  };

  const onPointerUp = (e: PointerEvent<SVGSVGElement>) => {
    touches.current.delete(e.pointerId);
    settle();
    const was = drag.current;
    drag.current = null;
    if (!was) return;
    if (was.kind === "point" && lifted) {
      const { id, at } = lifted;
      setLifted(null);
      edit((p) => changePoint(p, id, at));
      select(id);
    } else if (!was.moved) act(local(e), e.pointerType === "touch");
  };

  const onKeyDown = (e: KeyboardEvent<SVGSVGElement>) => {
    const step = (e.shiftKey ? 10 : 1) * (snapping.grid ?? 1);
    const arrows: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const move = arrows[e.key];
    const here = cursor ?? tidy(points.get(selected ?? "") ?? toWorld(view, { x: view.w / 2, y: view.h / 2 }));
    if (move && e.altKey && selected && points.has(selected) && editable) {
      const p = points.get(selected) as Point;
      edit((x) => changePoint(x, selected, { x: p.x + move[0], y: p.y + move[1] }));
    } else if (move) {
      const next = { x: here.x + move[0], y: here.y + move[1] };
      setCursor(next);
      const s = toScreen(view, next);
      if (s.x < 20 || s.y < 20 || s.x > view.w - 20 || s.y > view.h - 20) panBy(view.w / 2 - s.x, view.h / 2 - s.y);
    } else if (e.key === "Enter") {
      setCursor(here);
      act(toScreen(view, here));
    } else if (e.key === "Escape") {
      if (tool.kind === "select") select(null);
      take(tool.kind === "pipe" && tool.from ? { kind: "pipe", from: null } : { kind: "select" });
      setCursor(null);
    } else if ((e.key === "Delete" || e.key === "Backspace") && selected && editable) {
      edit((p) => (points.has(selected) ? removePoint(p, selected) : removeRun(p, selected)));
      select(null);
    } else if (e.key === "t" && !e.ctrlKey && !e.metaKey && selected && points.has(selected) && editable) {
      edit((p) => turnRound(p, reference, selected));
    } else if (e.key === "+" || e.key === "=") zoomBy(1.3);
    else if (e.key === "-") zoomBy(1 / 1.3);
    else return;
    e.preventDefault();
  };

  return { lifted, from, onPointerDown, onPointerMove, onPointerUp, onKeyDown };
}

const SAME = 0.005; // m within which two places are one
const tidy = (p: Spot): Spot => ({ x: Math.round(p.x * 100) / 100, y: Math.round(p.y * 100) / 100 });
