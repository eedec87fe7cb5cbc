import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { api } from "../api/client";
import type { Plan, Point } from "../api/types";
import { useAsked } from "../job/asked";
import {
  addPoint,
  addRun,
  changePoint,
  removePoint,
  removeRun,
  replacePoint,
  type SetDown,
  splitRun,
  turnRound,
} from "../job/edits";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { isPlain } from "../job/kinds";
import { useFormat, useReference } from "../ui/context";
import type { Heap } from "./Beneath";
import { type Box, pointMap, type Spot, snap, toScreen, toWorld, type View } from "./geometry";
import { along } from "./inWords";
import { type Hit, lookout } from "./lookout";
import { changeTo, lifted as lifted3, type Place, type Projection, placeOf } from "./projection";
import { useSnap, useTools } from "./toolStore";

type Drag =
  | { kind: "pan"; x: number; y: number; moved: boolean }
  | { kind: "frame"; x: number; y: number; moved: boolean }
  | { kind: "point"; id: string; moved: boolean };

type Moves = {
  view: View;
  how: Projection;
  /** The plan as it is seen: its points at their spots of the view. */
  shown: Plan;
  editable: boolean;
  panBy: (dx: number, dy: number) => void;
  glide: (dx: number, dy: number) => void;
  settle: () => void;
  zoomBy: (factor: number, about?: Spot) => void;
};

/** What pointer and keys do on the drawing. A key's Enter does what a click does at the cross. */
export function useDrawing({ view, how, shown, editable, panBy, glide, settle, zoomBy }: Moves) {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const selected = useJob((s) => s.selected);
  const { tool, take, cursor, setCursor, chosen, choose } = useTools();
  const { says, ask } = useAsked();
  const snapping = useSnap(plan);
  const holding = useRef<ReturnType<typeof setTimeout>>(undefined);
  const drag = useRef<Drag | null>(null);
  const touches = useRef(new Map<number, Spot>());
  const [over, setOver] = useState<Spot | null>(null);
  const [frame, setFrame] = useState<Box | null>(null);
  const [lifted, setLifted] = useState<{ id: string; at: Spot } | null>(null);
  const points = pointMap(plan);
  const spots = pointMap(shown);
  const [beneath, setBeneath] = useState<Heap | null>(null);

  const from = tool.kind === "pipe" && tool.from ? (points.get(tool.from) ?? null) : null;
  const seenFrom = from ? (spots.get(from.id) ?? null) : null;

  const { near, hit, foresee } = lookout({
    plan,
    shown,
    view,
    tool,
    snapping,
    from,
    reference,
    lines: derived.lines,
    length: (v) => format(v, "length"),
  });

  /** The place in space of a spot in the view, as near to where the line comes from, or to what is chosen, as the view leaves open. */
  const placed = (spot: Spot): Place => {
    const base = from ?? points.get(selected ?? "") ?? plan.points[0];
    const level = base ? placeOf(base) : { x: 0, y: 0, z: 0 };
    return lifted3(how, spot, level);
  };
  /** A new thing at a spot: from above it lies as deep as what is nearest, in the other views where it is seen. */
  const setDown = (p: Plan, kind: SetDown, spot: Spot): [Plan, Point] => {
    const to = placed(spot);
    const [next, point] = addPoint(p, reference, kind, to);
    if (how.kind === "above") return [next, point];
    return [changePoint(next, point.id, changeTo(point, to)), point];
  };

  /** Choose one more thing, or one less. */
  const toggle = (found: Hit) => {
    const id = found.kind === "point" ? found.point.id : found.kind === "run" ? found.id : null;
    if (id) choose(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
  };

  /** Choose what a frame goes round: its things, and the pipe between them with it. */
  const chooseIn = (box: Box) => {
    const inside = shown.points.filter((p) => {
      const c = toScreen(view, p);
      return c.x >= box.x && c.x <= box.x + box.w && c.y >= box.y && c.y <= box.y + box.h;
    });
    choose([...new Set([...chosen, ...inside.map((p) => p.id)])]);
  };

  /** Set the part in hand down at a place, or on the end of a line that is there. */
  const putPart = async (part: Plan, found: Hit, spot: Spot) => {
    const { x, y, z } = placed(spot);
    const onto = found.kind === "point" ? found.point.id : null;
    const level = how.kind === "above" ? null : z;
    const put = await ask((before) => api.group("set-down", { part, x, y, onto, level }, before));
    if (put) choose(put.chosen);
  };

  /** A click, or Enter at the cross, with the tool in hand. */
  const act = (at: Spot, coarse = false) => {
    setBeneath(null);
    setOver(null);
    if (tool.kind === "frame" && editable) {
      toggle(hit(at, coarse));
      return;
    }
    if (tool.kind === "scale" && editable) {
      const spots = tool.spots.length > 1 ? [] : tool.spots;
      take({ kind: "scale", spots: [...spots, toWorld(view, at)] });
      return;
    }
    const { place, found } = foresee(at, coarse);
    if (tool.kind === "select" || !editable) {
      const heap = near(at, coarse ? 16 : 8);
      if (heap.length > 1) setBeneath({ at, ids: heap.map((p) => p.id) });
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
          ? splitRun(p, reference, derived.lines, found.id, tool.what, found.share)
          : setDown(p, tool.what, place);
        select(point.id);
        return next;
      });
      return;
    }
    if (tool.kind === "part") void putPart(tool.part, found, place);
    else drawPipe(found, place);
  };

  const drawPipe = (found: Hit, place: Spot) => {
    let end = found.kind === "point" ? found.point.id : "";
    edit((p) => {
      let next = p;
      if (!end) {
        const made =
          found.kind === "run"
            ? splitRun(next, reference, derived.lines, found.id, "junction", found.share)
            : setDown(next, "bend", place);
        next = made[0];
        end = made[1].id;
      }
      if (from) next = addRun(next, reference, derived.lines, from.id, end)[0];
      return next;
    });
    take({ kind: "pipe", from: end });
    select(end);
  };

  /** Move a point to a spot of the view. */
  const moveTo = (id: string, spot: Spot) =>
    edit((p) => {
      const point = p.points.find((x) => x.id === id);
      if (!point) return p;
      if (how.kind === "above") return changePoint(p, id, spot);
      return changePoint(p, id, changeTo(point, lifted3(how, spot, placeOf(point))));
    });

  /** Whether the tool in hand sets something down or draws: then it is said what a press would do. */
  const sets = editable && (tool.kind === "pipe" || tool.kind === "place" || tool.kind === "part");
  const look = (at: Spot, coarse: boolean) => {
    setOver(at);
    setCursor(foresee(at, coarse).place);
  };
  const seen = over && sets ? foresee(over, false) : null;

  /** Pressed and held: what lies there is listed, to be chosen from, and nothing is set down or moved. */
  const hold = (at: Spot) => {
    const heap = near(at, 36);
    if (!heap.length) return;
    drag.current = null;
    setOver(null);
    setBeneath({ at, ids: heap.map((p) => p.id) });
  };

  const local = (e: PointerEvent<Element>): Spot => {
    // the frame stays where it is while what is drawn glides under the hand
    const box = (e.currentTarget.parentElement ?? e.currentTarget).getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };

  const onPointerDown = (e: PointerEvent<SVGSVGElement>) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const at = local(e);
    touches.current.set(e.pointerId, at);
    clearTimeout(holding.current);
    if (e.pointerType === "touch") holding.current = setTimeout(() => hold(at), HOLD);
    if (sets && e.pointerType === "touch") look(at, true);
    const found = hit(at, e.pointerType === "touch");
    const movable = editable && tool.kind === "select" && found.kind === "point";
    if (editable && tool.kind === "frame") drag.current = { kind: "frame", ...at, moved: false };
    else
      drag.current = movable
        ? { kind: "point", id: found.point.id, moved: false }
        : { kind: "pan", ...at, moved: false };
  };

  const onPointerMove = (e: PointerEvent<SVGSVGElement>) => {
    const at = local(e);
    if (sets && !drag.current?.moved) look(at, e.pointerType === "touch");
    const before = touches.current.get(e.pointerId);
    if (before && Math.hypot(at.x - before.x, at.y - before.y) > 4) clearTimeout(holding.current);
    if (!before || !drag.current) return;
    if (touches.current.size === 2) {
      settle();
      setFrame(null);
      pinch(e.pointerId, before, at);
      return;
    }
    touches.current.set(e.pointerId, at);
    if (drag.current.kind === "pan") {
      if (Math.hypot(at.x - drag.current.x, at.y - drag.current.y) > 4) drag.current.moved = true;
      if (drag.current.moved) setOver(null);
      if (drag.current.moved) glide(at.x - before.x, at.y - before.y);
      return;
    }
    if (drag.current.kind === "frame") {
      const { x, y } = drag.current;
      if (Math.hypot(at.x - x, at.y - y) > 4) drag.current.moved = true;
      if (drag.current.moved) setFrame(boxOf(drag.current, at));
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
    clearTimeout(holding.current);
    settle();
    const was = drag.current;
    drag.current = null;
    if (!was) return;
    if (was.kind === "point" && lifted) {
      const { id, at } = lifted;
      setLifted(null);
      moveTo(id, at);
      select(id);
    } else if (was.kind === "frame" && frame) {
      setFrame(null);
      chooseIn(frame);
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
    const here = cursor ?? tidy(spots.get(selected ?? "") ?? toWorld(view, { x: view.w / 2, y: view.h / 2 }));
    if (move && e.altKey && selected && points.has(selected) && editable) {
      const p = spots.get(selected) as Point;
      moveTo(selected, { x: p.x + move[0], y: p.y + move[1] });
    } else if (move && (e.ctrlKey || e.metaKey)) {
      const from = selected && points.has(selected) ? selected : null;
      const next = from ? along(plan, spots, from, { x: move[0], y: move[1] }) : (plan.points[0]?.id ?? null);
      const s = toScreen(view, spots.get(next ?? "") ?? here);
      if (next) select(next);
      if (s.x < 20 || s.y < 20 || s.x > view.w - 20 || s.y > view.h - 20) panBy(view.w / 2 - s.x, view.h / 2 - s.y);
    } else if (move) {
      const next = { x: here.x + move[0], y: here.y + move[1] };
      setCursor(next);
      const s = toScreen(view, next);
      if (sets) setOver(s);
      if (s.x < 20 || s.y < 20 || s.x > view.w - 20 || s.y > view.h - 20) panBy(view.w / 2 - s.x, view.h / 2 - s.y);
    } else if (e.key === "Enter") {
      setCursor(here);
      act(toScreen(view, here));
    } else if (e.key === "Escape") {
      if (tool.kind === "select") select(null);
      if (tool.kind === "frame") choose([]);
      take(tool.kind === "pipe" && tool.from ? { kind: "pipe", from: null } : { kind: "select" });
      setCursor(null);
    } else if ((e.key === "Delete" || e.key === "Backspace") && tool.kind === "frame" && chosen.length && editable) {
      void ask((before) => api.group("take-away", { chosen: [...chosen] }, before)).then((a) => a && choose([]));
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

  return {
    lifted,
    frame,
    says,
    foreseen: seen && {
      says: seen.says,
      ring: seen.found.kind === "point" ? (spots.get(seen.found.point.id) ?? null) : null,
    },
    from: seenFrom,
    beneath,
    closeBeneath: () => setBeneath(null),
    onPointerDown,
    onPointerMove,
    onPointerUp,
    onKeyDown,
  };
}

const HOLD = 550; // ms after which a press is a hold
const boxOf = (a: Spot, b: Spot): Box => ({
  x: Math.min(a.x, b.x),
  y: Math.min(a.y, b.y),
  w: Math.abs(a.x - b.x),
  h: Math.abs(a.y - b.y),
});

const tidy = (p: Spot): Spot => ({ x: Math.round(p.x * 100) / 100, y: Math.round(p.y * 100) / 100 });
