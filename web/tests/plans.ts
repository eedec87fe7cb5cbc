import { readFileSync } from "node:fs";
import type { Plan, Point, Reference, Run } from "../src/api/types";
import type { Derived } from "../src/job/derived";
import { nothingDerived } from "../src/job/derived";
import { newWhat } from "../src/job/kinds";

/** Plans and reference data for tests: the reference is what the server sends, kept by the test that starts these. */

export const reference = JSON.parse(readFileSync(process.env.HYDRARCH_REFERENCE ?? "", "utf-8")) as Reference;
export const demo = JSON.parse(readFileSync(process.env.HYDRARCH_DEMO ?? "", "utf-8")) as Plan;

export const noLines: Derived["lines"] = nothingDerived.lines;

export const empty: Plan = { ...demo, points: [], runs: [], scenarios: [], ways: [], nodes: [], extras: [], stock: [] };

export const point = (id: string, kind: string, x = 0, y = 0): Point => ({
  id,
  x,
  y,
  ground: 0,
  depth: 0.6,
  name: "",
  number: null,
  what: newWhat(reference, kind),
  ports: {},
  existing: null,
  practices: {},
});

export const run = (id: string, a: string, b: string, ports: [string, string] = ["line", "line"]): Run => ({
  id,
  a: { id: `${id}a`, point: a, port: ports[0] },
  b: { id: `${id}b`, point: b, port: ports[1] },
  situation: "buried",
  series: null,
  size: null,
  measured_length: null,
  coupled: false,
  existing: null,
  wheels: false,
  lagging: 0,
  closed: 0,
});

/** A browser's storage of so many characters, and what a test may do to it. */
export class Store {
  private kept = new Map<string, string>();
  private last = new Map<string, boolean>();
  constructor(public room = 1_000_000) {}
  get = (key: string): string | null => this.kept.get(key) ?? null;
  put = (key: string, text: string): boolean => {
    this.last.set(key, text.length <= this.room);
    if (text.length > this.room) return false;
    this.kept.set(key, text);
    return true;
  };
  drop = (key: string): void => void this.kept.delete(key);
  sure = (key: string): boolean => this.last.get(key) ?? this.kept.has(key);
  keys = (start: string): string[] => [...this.kept.keys()].filter((k) => k.startsWith(start));
}
