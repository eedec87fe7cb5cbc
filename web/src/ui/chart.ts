/** Axes and paths of a chart, as pure functions from numbers to places. */

export type Line = { name: string; points: readonly (readonly [number, number])[]; dash?: string; tone?: string };

/** About `count` round numbers from 0 or the least to the most. */
export function ticks(low: number, high: number, count = 5): number[] {
  const span = high - low || 1;
  const raw = span / count;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = ([1, 2, 2.5, 5, 10].find((m) => m * power >= raw) ?? 10) * power;
  const first = Math.ceil(low / step - 1e-9) * step;
  const found: number[] = [];
  for (let at = first; at <= high + step * 1e-6; at += step) found.push(Math.abs(at) < step * 1e-6 ? 0 : at);
  return found;
}

export const tickText = (value: number): string => {
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

export const path = (
  points: readonly (readonly [number, number])[],
  x: (v: number) => number,
  y: (v: number) => number,
) => points.map(([a, b], i) => `${i ? "L" : "M"}${x(a).toFixed(1)} ${y(b).toFixed(1)}`).join("");

/** The numbers behind a chart: a column for each line, a row for each place along. */
export function csv(xName: string, lines: readonly Line[]): string {
  const quote = (s: string) => `"${s.replaceAll('"', '""')}"`;
  const rows = [["line", xName, "value"].map(quote).join(",")];
  for (const l of lines) for (const [a, b] of l.points) rows.push([quote(l.name), a, b].join(","));
  return `${rows.join("\r\n")}\r\n`;
}
