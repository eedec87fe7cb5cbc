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

const cell = 64;

/** Things by the squares of the screen they may lie in: a box is tried against those that are near it alone. */
class Near<T> {
  private readonly squares = new Map<number, { thing: T; asked: number }[]>();
  private asking = 0;

  add(box: Box, thing: T): void {
    const held = { thing, asked: 0 };
    for (const square of squaresOf(box)) {
      const there = this.squares.get(square);
      if (there) there.push(held);
      else this.squares.set(square, [held]);
    }
  }

  /** How many of the things near a box pass; each is asked once. */
  count(box: Box, passes: (thing: T) => boolean): number {
    this.asking += 1;
    let found = 0;
    for (const square of squaresOf(box))
      for (const held of this.squares.get(square) ?? [])
        if (held.asked !== this.asking) {
          held.asked = this.asking;
          if (passes(held.thing)) found += 1;
        }
    return found;
  }

  some(box: Box, passes: (thing: T) => boolean): boolean {
    return squaresOf(box).some((square) => this.squares.get(square)?.some((held) => passes(held.thing)));
  }
}

function squaresOf({ x, y, w, h }: Box): number[] {
  const found: number[] = [];
  const [left, right] = [Math.floor(x / cell), Math.floor((x + w) / cell)];
  for (let row = Math.floor(y / cell); row <= Math.floor((y + h) / cell); row += 1)
    for (let column = left; column <= right; column += 1) found.push(row * 65536 + column);
  return found;
}

/** The part of a box that lies within another that it meets. */
const within = (box: Box, frame: Box): Box => {
  const [x, y] = [Math.max(box.x, frame.x), Math.max(box.y, frame.y)];
  return {
    x,
    y,
    w: Math.min(box.x + box.w, frame.x + frame.w) - x,
    h: Math.min(box.y + box.h, frame.y + frame.h) - y,
  };
};

const meets = (a: Box, b: Box) => a.x <= b.x + b.w && b.x <= a.x + a.w && a.y <= b.y + b.h && b.y <= a.y + a.h;

/** `stay` are placed labels that keep their place where what they name has not moved: while one thing is dragged, all others hold still. */
export function placeLabels(
  labels: readonly Label[],
  pipes: readonly (readonly [Spot, Spot])[],
  discs: readonly Box[],
  frame: Box,
  stay: readonly Placed[] = [],
): Placed[] {
  const placed: Placed[] = [];
  const kept = new Map(stay.map((s) => [s.key, s]));
  const near = { pipes: new Near<readonly [Spot, Spot]>(), discs: new Near<Box>(), placed: new Near<Box>() };
  for (const pipe of pipes) {
    const [a, b] = pipe;
    const box = { x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), w: Math.abs(a.x - b.x), h: Math.abs(a.y - b.y) };
    if (meets(box, frame)) near.pipes.add(within(box, frame), pipe); // a label stands in the frame, so nothing else meets it
  }
  for (const disc of discs) if (meets(disc, frame)) near.discs.add(within(disc, frame), disc);
  const moved = labels.filter((label) => {
    const before = kept.get(label.key);
    if (before?.at.x !== label.at.x || before.at.y !== label.at.y || before.lines[0] !== label.lines[0]) return true;
    placed.push({ ...label, lines: before.lines, box: before.box });
    near.placed.add(before.box, before.box);
    return false;
  });
  for (const label of moved) {
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
        if (near.placed.some(box, (other) => boxesMeet(other, box))) continue;
        const covered =
          near.pipes.count(box, ([a, b]) => segmentMeetsBox(a, b, box)) +
          2 * near.discs.count(box, (d) => boxesMeet(d, box));
        if (covered < least) [best, least] = [{ ...said, box }, covered];
        if (covered === 0) break;
      }
      if (least === 0) break;
    }
    if (best && (least === 0 || label.must)) {
      placed.push(best);
      near.placed.add(best.box, best.box);
    }
  }
  return placed;
}
