import type { Quantity, Unit, UnitSystem } from "../api/types";

/** Sets SI numbers in a job's units, by the table the server gives. Reading what is typed is the server's. */
export type Formatter = {
  system: UnitSystem;
  (value: number | null | undefined, quantity: string): string;
  bare: (value: number | null | undefined, quantity: string) => string;
  unit: (quantity: string) => string;
  number: (value: number, quantity: string) => number;
};

export function inchFraction(inches: number): string {
  const sixteenths = Math.round(Math.abs(inches) * 16);
  const whole = Math.floor(sixteenths / 16);
  let top = sixteenths % 16;
  let bottom = 16;
  while (top && top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  const sign = inches < 0 && sixteenths ? "-" : "";
  if (!top) return `${sign}${whole}`;
  return whole ? `${sign}${whole}-${top}/${bottom}` : `${sign}${top}/${bottom}`;
}

function set(value: number, unit: Unit): [string, string] {
  const number = (value - unit.offset) / unit.factor;
  const size = Math.abs(number);
  if (unit.less && size < 1 && (size * unit.factor) / unit.less.factor > 0.5 * 10 ** -unit.less.decimals)
    return set(value, unit.less);
  if (unit.more && size >= unit.most) return set(value, unit.more);
  if (unit.style === "feet-inches" && Math.round(Math.abs(number) * 16) >= 192) {
    const sixteenths = Math.round(Math.abs(number) * 16);
    const rest = sixteenths % 192;
    const feet = `${number < 0 ? "-" : ""}${Math.floor(sixteenths / 192)} ft`;
    return [rest ? `${feet} ${inchFraction(rest / 16)} in` : feet, ""];
  }
  if (unit.style !== "decimal") return [inchFraction(number), unit.symbol];
  return [(Math.round(number * 10 ** unit.decimals) / 10 ** unit.decimals + 0).toFixed(unit.decimals), unit.symbol];
}

export function formatter(quantities: Quantity[], system: UnitSystem): Formatter {
  const units = new Map(quantities.map((q) => [q.name, q[system]]));
  const parts = (value: number | null | undefined, quantity: string): [string, string] => {
    const unit = units.get(quantity);
    return value === null || value === undefined || !unit ? ["–", ""] : set(value, unit);
  };
  const format = (value: number | null | undefined, quantity: string) => parts(value, quantity).join(" ").trim();
  return Object.assign(format, {
    system,
    bare: (value: number | null | undefined, quantity: string) => {
      const unit = units.get(quantity);
      const [text, symbol] = parts(value, quantity);
      return symbol && unit && symbol !== unit.symbol ? `${text} ${symbol}` : text;
    },
    unit: (quantity: string) => units.get(quantity)?.symbol ?? "",
    number: (value: number, quantity: string) => {
      const unit = units.get(quantity);
      return unit ? (value - unit.offset) / unit.factor : value;
    },
  });
}

export function wait(seconds: number): string {
  const s = Math.max(0, Math.ceil(seconds));
  if (s < 60) return `${s} s`;
  const minutes = Math.floor(s / 60);
  if (minutes < 60) return s % 60 ? `${minutes} min ${String(s % 60).padStart(2, "0")} s` : `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  return hours < 48
    ? `${hours} h ${String(minutes % 60).padStart(2, "0")} min`
    : `${Math.floor(hours / 24)} days ${hours % 24} h`;
}

export function clockTime(seconds: number): string {
  const when = new Date(seconds * 1000);
  const time = when.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const today = new Date().toDateString() === when.toDateString();
  return today ? time : `${when.toLocaleDateString([], { day: "numeric", month: "short" })} ${time}`;
}

/** A price, in whatever the shop counts in. */
export const money = (value: number): string => value.toFixed(2);

/** How deep a thing lies, in words; above the ground it is so much up. */
export const lies = (format: Formatter, depth: number): string =>
  depth < 0 ? `${format(-depth, "depth")} up` : `${format(depth, "depth")} deep`;
