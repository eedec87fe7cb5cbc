import { type Box, boxesMeet, type Spot, segmentMeetsBox } from "./geometry";

/** Labels placed by free space: each takes the first place about its anchor that covers no pipe, disc or earlier label. */

export type Label = {
  key: string;
  at: Spot;
  reach: number;
  lines: readonly string[];
  bold?: boolean;
  tone?: string;
  must?: boolean;
};
export type Placed = Label & { box: Box };

const lineHeight = 15;
const charWidth = 7;

export const sizeOf = (lines: readonly string[]): { w: number; h: number } => ({
  w: Math.max(...lines.map((l) => l.length)) * charWidth + 6,
  h: lines.length * lineHeight + 4,
});

const rings = [0, 14, 30, 50, 74];

function places(label: Label): Box[] {
  const { w, h } = sizeOf(label.lines);
  const { x, y } = label.at;
  const found: Box[] = [];
  for (const r of rings.slice(0, label.must ? rings.length : 2).map((more) => label.reach + more)) {
    const d = r * 0.72;
    found.push(
      { x: x + r, y: y - h / 2, w, h },
      { x: x - w / 2, y: y - r - h, w, h },
      { x: x - w / 2, y: y + r, w, h },
      { x: x - r - w, y: y - h / 2, w, h },
      { x: x + d, y: y - d - h, w, h },
      { x: x + d, y: y + d, w, h },
      { x: x - d - w, y: y - d - h, w, h },
      { x: x - d - w, y: y + d, w, h },
    );
  }
  return found;
}

export function placeLabels(
  labels: readonly Label[],
  pipes: readonly (readonly [Spot, Spot])[],
  discs: readonly Box[],
  frame: Box,
): Placed[] {
  const placed: Placed[] = [];
  for (const label of labels) {
    // one that must be shown and has no room for all its lines is shown by its name alone
    const short = label.must && label.lines.length > 1 ? [{ ...label, lines: label.lines.slice(0, 1) }] : [];
    let best: Placed | null = null;
    let least = Number.POSITIVE_INFINITY;
    for (const said of [label, ...short]) {
      for (const box of places(said)) {
        if (
          box.x < frame.x ||
          box.y < frame.y ||
          box.x + box.w > frame.x + frame.w ||
          box.y + box.h > frame.y + frame.h
        )
          continue;
        if (placed.some((p) => boxesMeet(p.box, box))) continue;
        const covered =
          pipes.filter(([a, b]) => segmentMeetsBox(a, b, box)).length +
          2 * discs.filter((d) => boxesMeet(d, box)).length;
        if (covered < least) [best, least] = [{ ...said, box }, covered];
        if (covered === 0) break;
      }
      if (least === 0) break;
    }
    if (best && (least === 0 || label.must)) placed.push(best);
  }
  return placed;
}
