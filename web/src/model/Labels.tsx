import { useFrame } from "@react-three/fiber";
import { type RefObject, useMemo } from "react";
import { Vector3 } from "three";
import type { AsLaid, Stage } from "../api/types";
import { dress } from "../drawing/dress";
import { useReadyJob, useStands } from "../job/hooks";
import { useFormat, useReference } from "../ui/context";
import { lies } from "../ui/format";
import type { Model } from "./readModel";

export type ModelLabel = { key: string; text: string; at: Vector3; strong: boolean; tone: string | undefined };

/** What is labelled: the same words as on the drawing of this stage, at what they are about. */
export function useLabels(
  model: Model | undefined,
  stage: Stage,
  scenario: string,
  laid: readonly AsLaid[],
): ModelLabel[] {
  const { plan, derived } = useReadyJob();
  const readiness = useStands()?.readiness ?? null;
  const reference = useReference();
  const format = useFormat();
  return useMemo(() => {
    if (!model) return [];
    const wear = dress({ stage, plan, derived, readiness, reference, format, scenario });
    const places = new Map<string, Vector3>();
    for (const node of model.nodes.values()) {
      if (places.has(node.about)) continue;
      places.set(node.about, new Vector3(0, 0, node.kind === "pipe" ? 0.5 : 0).applyMatrix4(node.matrix));
    }
    const told = (of: typeof wear.runs, strong: boolean) =>
      [...of].flatMap(([id, words]) => {
        const at = places.get(id);
        return at ? [{ key: id, text: words.lines.join(" · "), at, strong, tone: words.tone }] : [];
      });
    const taped = laid.flatMap((j) => {
      const at = model.moves.find((m) => m.joint === j.joint)?.place;
      const tapes = j.tapes.map((t) => `${format(t.distance, "length")} from ${t.name}`);
      return at && tapes.length
        ? [
            {
              key: j.joint,
              text: [...tapes, lies(format, j.depth)].join(" · ") + (j.sharp ? "" : ", they cross flat"),
              at,
              strong: false,
              tone: undefined,
            },
          ]
        : [];
    });
    return [...taped, ...told(wear.points, true), ...told(wear.runs, false)].slice(0, MOST);
  }, [model, plan, derived, readiness, reference, format, stage, scenario, laid]);
}

const MOST = 150;
const [WIDE, HIGH] = [7, 16]; // px of a letter, and of a line

/** Sets each label where its thing is seen, and leaves out what would lie over another. */
export function LabelPlacer({
  labels,
  layer,
}: {
  labels: readonly ModelLabel[];
  layer: RefObject<HTMLDivElement | null>;
}) {
  const spot = useMemo(() => new Vector3(), []);
  useFrame(({ camera, size }) => {
    const taken: { x: number; y: number; w: number }[] = [];
    labels.forEach((label, n) => {
      const element = layer.current?.children[n];
      if (!(element instanceof HTMLElement)) return;
      spot.copy(label.at).project(camera);
      const [x, y, w] = [
        ((spot.x + 1) / 2) * size.width + 10,
        ((1 - spot.y) / 2) * size.height - HIGH,
        label.text.length * WIDE + 8,
      ];
      const free =
        x > 0 &&
        x + w < size.width &&
        y > 50 &&
        y < size.height - HIGH &&
        taken.every((t) => x + w < t.x || t.x + t.w < x || Math.abs(t.y - y) > HIGH + 3);
      if (free) taken.push({ x, y, w });
      element.style.visibility = free ? "visible" : "hidden";
      element.style.transform = `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)`;
    });
  });
  return null;
}

export function LabelLayer({
  labels,
  layer,
}: {
  labels: readonly ModelLabel[];
  layer: RefObject<HTMLDivElement | null>;
}) {
  return (
    <div
      ref={layer}
      className="pointer-events-none absolute inset-0 overflow-hidden"
      aria-hidden="true"
      data-layer="labels"
    >
      {labels.map((l) => (
        <span
          key={l.key}
          className={`invisible absolute top-0 left-0 whitespace-nowrap rounded-[2px] bg-paper/80 px-1 text-[0.75rem] ${l.strong ? "font-semibold" : "text-muted"}`}
        >
          <span style={l.tone ? { color: l.tone } : undefined}>{l.text}</span>
        </span>
      ))}
    </div>
  );
}
