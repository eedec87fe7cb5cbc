import { kept } from "../api/kept";
import type { Market, UnitSystem } from "../api/types";

const keys = { units: "hydrarch.benchUnits", market: "hydrarch.benchMarket", job: "hydrarch.benchJob" } as const;

type Broken = {
  series: string;
  size: string;
  situation: string;
  broke?: string;
  pressure?: number | null;
  /** The record it closes, or the point or run it is at, with what that is called. */
  of?: string;
  where?: string;
};

/** The bench's question how such pipe is mended, where it lies so, with what is known of it. */
export const repairOf = ({ situation, ...known }: Broken): string => {
  const lies = { buried: "in ground", "in wall": "in wall" }[situation] ?? "in the open";
  const said = Object.entries({ ...known, lies }).filter(([, v]) => v != null && v !== "");
  return `/bench/repair?${new URLSearchParams(said.map(([k, v]) => [k, JSON.stringify(v)]))}`;
};

/** The bench with a question as it was typed: an address that can be kept or sent. */
export const askedAt = (words: string): string => `/bench/join?ask=${encodeURIComponent(words)}`;

/** Where the bench stands: its units, whose shops it buys in, and the job it was opened from. */
export const bench = {
  units: (): UnitSystem => (kept.get(keys.units) === "us" ? "us" : "metric"),
  market: (): Market => {
    const said = kept.get(keys.market);
    return said === "north-american" || said === "elsewhere" ? said : "both";
  },
  job: (): string => kept.get(keys.job) ?? "",
  setUnits: (units: UnitSystem) => void kept.put(keys.units, units),
  setMarket: (market: Market) => void kept.put(keys.market, market),
  /** Open it for a job: in its units and its market, with its list first to send to. */
  openedFrom: (job: string, units: UnitSystem, market: Market) => {
    bench.setUnits(units);
    bench.setMarket(market);
    kept.put(keys.job, job);
  },
};
