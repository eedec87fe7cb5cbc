import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";
import { BEYOND, fit, pan, type Spot, toScreen, toWorld, type View, zoom } from "./geometry";

/**
 * The part of the plan that is shown: it fits the plan once, then follows the wheel, the fingers and the buttons. Where something was
 * `placed` by its numbers it fits the plan again, unless a hand has moved it since and the thing is in it. A job with nothing drawn begins
 * so many metres `across`.
 *
 * A dragging hand glides what is drawn (`carried`) as it stands, a sheet of its own to whoever puts it on the screen; it is drawn anew when the hand lets go, or has gone so far
 * that what lies beyond the edges is wanted.
 */
export function useView(
  frame: RefObject<HTMLDivElement | null>,
  carried: RefObject<SVGSVGElement | null>,
  points: readonly Spot[],
  key: string,
  placed: number,
  across: number | undefined,
) {
  const [view, setView] = useState<View>({ scale: 8, cx: 0, cy: 0, w: 0, h: 0 });
  const glided = useRef<Spot>({ x: 0, y: 0 });
  const fitted = useRef("");
  const moved = useRef(false);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      const { width: w, height: h } = entry?.contentRect ?? { width: 0, height: 0 };
      if (w > 0 && h > 0) setView((v) => ({ ...v, w, h }));
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [frame]);

  useEffect(() => {
    if (view.w > 0 && fitted.current !== key) {
      fitted.current = key;
      moved.current = false;
      setView(fit(points, view.w, view.h, across));
    }
  }, [view.w, view.h, key, points, across]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at when the room for it changes, not at each edit
  useEffect(() => {
    if (view.w > 0 && !moved.current) setView(fit(points, view.w, view.h, across));
  }, [view.w, view.h]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at when something was placed, not while it is dragged
  useEffect(() => {
    if (placed && !(moved.current && points.every((p) => inView(view, p))))
      setView(fit(points, view.w, view.h, across));
  }, [placed]);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const box = element.getBoundingClientRect();
      moved.current = true;
      setView((v) => zoom(v, Math.exp(-e.deltaY * 0.0015), { x: e.clientX - box.left, y: e.clientY - box.top }));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [frame]);

  const carry = () => {
    const { x, y } = glided.current;
    if (carried.current) carried.current.style.transform = x || y ? `translate(${x}px, ${y}px)` : "";
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new view is drawn where the hand had carried the old one
  useLayoutEffect(carry, [view]);

  const settle = () => {
    const { x, y } = glided.current;
    glided.current = { x: 0, y: 0 };
    if (x || y) setView((v) => pan(v, x, y));
  };

  const glide = (dx: number, dy: number) => {
    moved.current = true;
    const { x, y } = glided.current;
    glided.current = { x: x + dx, y: y + dy };
    if (Math.abs(x + dx) > view.w * BEYOND || Math.abs(y + dy) > view.h * BEYOND) settle();
    else carry();
  };

  return {
    view,
    glide,
    settle,
    fitAll: () => {
      moved.current = false;
      setView((v) => fit(points, v.w, v.h, across));
    },
    /** Zoom about a place, or bring that place to the middle while zooming. */
    zoomBy: (factor: number, about?: Spot, centred = false) => {
      moved.current = true;
      setView((v) => {
        const to = zoom(v, factor, about ?? { x: v.w / 2, y: v.h / 2 });
        return centred && about ? { ...to, ...centre(v, about) } : to;
      });
    },
    panBy: (dx: number, dy: number) => {
      moved.current = true;
      setView((v) => pan(v, dx, dy));
    },
  };
}

const inView = (v: View, at: Spot): boolean => {
  const { x, y } = toScreen(v, at);
  return x >= 0 && y >= 0 && x <= v.w && y <= v.h;
};

const centre = (v: View, at: Spot): { cx: number; cy: number } => {
  const { x, y } = toWorld(v, at);
  return { cx: x, cy: y };
};
