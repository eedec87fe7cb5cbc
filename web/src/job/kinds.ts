import type { Head, KindView, Market, Plan, Point, PortView, Reference, What } from "../api/types";

/** What the reference says of the kinds of thing, looked up; nothing here knows one kind from another. */

export const kindOf = (reference: Reference, what: What): KindView | undefined =>
  reference.kinds.find((k) => k.kind === what.kind);

/** Whether a thing has a trait that its component type says of itself. */
export const has = (reference: Reference, p: Point, trait: KindView["traits"][number]): boolean =>
  kindOf(reference, p.what)?.traits.includes(trait) ?? false;

/** A place of the line that is no thing: where pipes meet or turn. */
export const isPlain = (reference: Reference, p: Point): boolean => kindOf(reference, p.what)?.role === "line";
export const isOutlet = (reference: Reference, p: Point): boolean => kindOf(reference, p.what)?.role === "outlet";
/** Where water comes back to its body, as at a jet or a return. */
export const isEnd = (reference: Reference, p: Point): boolean => kindOf(reference, p.what)?.role === "end";
export const isSource = (reference: Reference, p: Point): boolean => kindOf(reference, p.what)?.role === "source";
/** Whether pipe comes to a thing: not to a mark, nor to a body of water itself. */
export const isPiped = (reference: Reference, p: Point): boolean =>
  !["mark", "body"].includes(kindOf(reference, p.what)?.role ?? "");
/** Whether a thing has a curve of flow and head, as pumps have. */
export const hasCurve = (reference: Reference, p: Point): boolean =>
  Boolean(kindOf(reference, p.what)?.fields.some((f) => f.shape === "curve"));

export const nameOf = (reference: Reference, p: Point): string =>
  p.name ||
  `${kindOf(reference, p.what)?.title ?? p.what.kind} ${p.number ?? (p.id.length > OLD_ID ? "" : p.id)}`.trimEnd();

const OLD_ID = 12; // an id from before ids were made at random is one that people were shown
const namesKnown = new WeakMap<Plan, ReadonlyMap<string, string>>();

/** What each point of a plan is called, by id; made once for a plan. */
export function namesOf(reference: Reference, plan: Plan): ReadonlyMap<string, string> {
  const known = namesKnown.get(plan) ?? new Map(plan.points.map((p) => [p.id, nameOf(reference, p)]));
  namesKnown.set(plan, known);
  return known;
}

/** The fields of a thing by the names that the reference lists them under. */
export const fieldsOf = (what: What): Readonly<Record<string, unknown>> => what;

/** Whether a field says something of a thing, by what its other fields are. */
export const tells = (what: What, field: KindView["fields"][number]): boolean =>
  Object.entries(field.only ?? {}).every(([other, values]) => values.includes(String(fieldsOf(what)[other])));

/** Whether a thing throws water over an arc. */
export const isHead = (what: What): what is Head => "arc" in what;

/** Whether what stands at a point is such a head. */
export const isHeadAt = (point: Point): point is Point & { what: Head } => isHead(point.what);

/** A thing of a kind as it is set down: its fields as they begin. */
export function newWhat(reference: Reference, kind: string): What {
  const spec = reference.kinds.find((k) => k.kind === kind);
  return { kind, ...Object.fromEntries((spec?.fields ?? []).map((f) => [f.name, f.default])) } as What;
}

type OwnRow = { name: string; role: "in" | "out" | "any"; end: string };

/** The ports a thing has: its kind's, or the rows in which it lists its own. */
export function portsOf(reference: Reference, what: What): PortView[] {
  const kind = kindOf(reference, what);
  if (!kind) return [];
  const rows = kind.own_ports ? (fieldsOf(what)[kind.own_ports] as OwnRow[] | undefined) : undefined;
  if (!rows) return kind.ports;
  const like = kind.ports[0];
  return rows.map((r) => ({
    name: r.name,
    title: r.name,
    role: r.role,
    way: r.role,
    takes: 1,
    needs: false,
    given: Object.fromEntries(reference.markets.map((m) => [m.market, r.end])),
    ends: like?.ends ?? [],
  }));
}

/** The end a port has in a market where a crew says nothing else: "" where a part is taken that suits the pipe. */
export const givenEnd = (port: PortView, market: Market): string => port.given[market] ?? "";

/** Whether what is drawn from a thing, or from its end where a run comes to one, is a line of air: all that it leads to has ports for air. */
export function airy(reference: Reference, plan: Plan, id: string, port = "", seen = new Set<string>()): boolean {
  const point = plan.points.find((p) => p.id === id);
  if (!point || seen.has(id)) return false;
  seen.add(id);
  const ports = portsOf(reference, point.what);
  const air = ports.filter((p) => p.role === "air");
  if (air.length) return air.length === ports.length || air.some((p) => p.name === port);
  return plan.runs.some(({ a, b }) =>
    [
      [a, b],
      [b, a],
    ].some(([here, there]) => here?.point === id && there && airy(reference, plan, there.point, there.port, seen)),
  );
}

/**
 * The port of a thing that a new run comes to: one that is free, for what the run carries, on the side water comes in or goes out.
 *
 * Where the thing has none that fits, its first: the core says what is wrong with it.
 */
export function portFor(reference: Reference, plan: Plan, point: Point, side: "in" | "out", air: boolean): string {
  const all = portsOf(reference, point.what);
  const fitting = all.filter((p) => (p.role === "air") === air);
  const ports = fitting.length ? fitting : all;
  const taken = (name: string) =>
    plan.runs.flatMap((r) => [r.a, r.b]).filter((e) => e.point === point.id && e.port === name).length;
  const free = ports.filter((p) => p.takes === 0 || taken(p.name) < p.takes);
  const found = free.find((p) => p.way === side) ?? free.find((p) => p.way === "any") ?? free[0] ?? ports[0];
  return found?.name ?? "";
}
