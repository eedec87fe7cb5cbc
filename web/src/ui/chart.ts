import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";

/** Axes and paths of a chart, as pure functions from numbers to places. */

export type Line = { name: string; points: readonly (readonly [number, number])[]; dash?: string; tone?: string };

/** An axis: where a value lies, the round values along it, and each of them in words. */
export type Axis = { at: (value: number) => number; ticks: number[]; words: (value: number) => string };

/** The axis from the least to the most value, between two places. */
export function axis([low, high]: readonly [number, number], from: number, to: number, count = 5): Axis {
  const scale = scaleLinear([low, high], [from, to]);
  return { at: (v) => scale(v), ticks: scale.ticks(count), words: scale.tickFormat(count, "f") };
}

/** A value of a table, to as many figures as its size bears. */
export const valueText = (value: number): string => {
  const size = Math.abs(value);
  return size >= 100 || Number.isInteger(value)
    ? value.toFixed(0)
    : size >= 10
      ? value.toFixed(1)
      : value.toPrecision(2);
};

export function extent(lines: readonly Line[], axis: 0 | 1, withZero: boolean): [number, number] {
  const all = lines.flatMap((l) => l.points.map((p) => p[axis]));
  const low = Math.min(...all, withZero ? 0 : Number.POSITIVE_INFINITY);
  const high = Math.max(...all, withZero ? 0 : Number.NEGATIVE_INFINITY);
  return high > low ? [low, high] : [low, low + 1];
}

/** A line through places, as a path. */
export const path = (
  points: readonly (readonly [number, number])[],
  x: (v: number) => number,
  y: (v: number) => number,
): string =>
  line<readonly [number, number]>(
    ([a]) => tenth(x(a)),
    ([, b]) => tenth(y(b)),
  )([...points]) ?? "";

/** A place to a tenth of a dot: more is not seen. */
const tenth = (place: number): number => Math.round(place * 10) / 10;

/** The numbers behind a chart: a column for each line, a row for each place along. */
export function csv(xName: string, lines: readonly Line[]): string {
  const quote = (s: string) => `"${s.replaceAll('"', '""')}"`;
  const rows = [["line", xName, "value"].map(quote).join(",")];
  for (const l of lines) for (const [a, b] of l.points) rows.push([quote(l.name), a, b].join(","));
  return `${rows.join("\r\n")}\r\n`;
}
