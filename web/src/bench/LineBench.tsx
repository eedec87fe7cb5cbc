import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../api/client";
import type { Reference } from "../api/types";
import { Chart } from "../ui/Chart";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { type DecimalMark, markOf, numeral } from "../ui/numeral";
import { Box, Button, Heading, Pick, Row, Table } from "../ui/parts";
import { put } from "../ui/put";
import { Typed } from "../ui/Typed";
import { onRun, runsOf, SendToJob } from "./AddToJob";
import { InSight } from "./InSight";
import { useInAddress } from "./inAddress";

const kinds = [
  "elbow",
  "elbow 45",
  "tee, straight through",
  "tee, round the branch",
  "ball valve",
  "check valve",
] as const;

/** How big a line: what every size loses, how fast it runs, what a fast valve does, and the crew's rule beside the sum. */
export function LineBench({ reference, format }: { reference: Reference; format: Formatter }) {
  const [asked, setAsked] = useInAddress("asked", {
    series: "pvc40",
    flow: 8e-4,
    length: 60,
    rise: 3,
    working: 400e3,
    wanted: 100e3,
  });
  const [friction, setFriction] = useInAddress("friction", "hazen-williams");
  const [counts, setCounts] = useInAddress<Record<string, number>>("counts", { elbow: 2 });
  const [table, setTable] = useState(false);
  const whole = {
    ...asked,
    friction: friction as "hazen-williams",
    units: format.system,
    fittings: Object.fromEntries(Object.entries(counts).filter(([, n]) => n > 0)),
  };
  const query = useQuery({ queryKey: ["line", whole], queryFn: () => api.benchLine(whole), placeholderData: (b) => b });
  const found = query.error ? undefined : query.data;
  const picked = found?.rows.find((r) => r.size === found.pick);
  return (
    <>
      <div className="asks grid gap-5 lg:grid-cols-[minmax(0,22rem)_minmax(0,1fr)]">
        <div>
          <Pick
            label="Pipe"
            options={reference.series
              .filter((s) => s.kind === "pressure" || s.kind === "drip")
              .map((s) => [s.id, s.name] as const)}
            value={asked.series}
            onPick={(series) => setAsked((a) => ({ ...a, series }))}
          />
          <div className="mt-2 grid grid-cols-2 gap-2">
            <Typed
              label="Flow"
              quantity="flow"
              value={asked.flow}
              onValue={(flow) => setAsked((a) => ({ ...a, flow }))}
            />
            <Typed
              label="Length"
              quantity="length"
              value={asked.length}
              onValue={(length) => setAsked((a) => ({ ...a, length }))}
            />
            <Typed
              label="Rise to the far end"
              quantity="length"
              value={asked.rise}
              onValue={(rise) => setAsked((a) => ({ ...a, rise }))}
            />
            <Typed
              label="Pressure to hand at the foot"
              quantity="pressure"
              value={asked.working}
              onValue={(working) => setAsked((a) => ({ ...a, working }))}
            />
            <Typed
              label="Wanted at the far end"
              quantity="pressure"
              value={asked.wanted}
              onValue={(wanted) => setAsked((a) => ({ ...a, wanted }))}
            />
          </div>
          <Pick
            className="mt-2"
            label="Friction"
            options={[
              ["hazen-williams", "Hazen-Williams"],
              ["darcy-weisbach", "Darcy-Weisbach"],
            ]}
            value={friction}
            onPick={setFriction}
          />
          <fieldset className="mt-2 grid grid-cols-2 gap-x-2 gap-y-1">
            <legend className="text-[0.8125rem] text-muted">Fittings on the way</legend>
            {kinds.map((k) => (
              <label key={k} className="flex items-center justify-between gap-1 text-[0.875rem]">
                {k}
                <input
                  type="number"
                  min={0}
                  max={999}
                  value={counts[k] ?? 0}
                  className="min-h-[34px] w-16 border border-edge bg-panel px-1 text-right pointer-coarse:min-h-[44px]"
                  onChange={({ target }) => setCounts(put(k, Math.max(0, Math.round(Number(target.value) || 0))))}
                />
              </label>
            ))}
          </fieldset>
          {query.error instanceof Refused && <Said problem={query.error.problem} />}
        </div>
        <InSight says={found ? (found.pick ? `Take ${found.pick}` : "No size of this series will do") : ""} />
        <section aria-label="Sizes" className="answer">
          {found && (
            <>
              <Box tone={found.pick ? "proved" : "dry"}>
                <p className="font-bold">{found.pick ? `Take ${found.pick}.` : "No size of this series will do."}</p>
                <p className="first-letter:uppercase">{found.says}.</p>
                {picked && (
                  <p>
                    It loses {format(picked.friction + picked.fittings, "head")} and wants{" "}
                    {format(picked.pressure, "pressure")} more at the near end than at the far one.
                  </p>
                )}
                <p className="text-muted">
                  {found.rule
                    ? `The rule of thumb says ${found.rule.size} in (${format(found.rule.flow, "flow")} over ${format(found.rule.length, "length")}).`
                    : "The rule of thumb ends at 1 in and says nothing here."}
                </p>
              </Box>
              <Table
                caption="Every size"
                numbers={[1, 2, 3, 4, 5]}
                head={[
                  "size",
                  format.unit("velocity"),
                  `friction, ${format.unit("head")}`,
                  `fittings, ${format.unit("head")}`,
                  `stopped at once, ${format.unit("pressure")}`,
                  `rated, ${format.unit("pressure")}`,
                  "verdict",
                ]}
              >
                {found.rows.map((r) => (
                  <Row key={r.size} selected={r.size === found.pick}>
                    <td className="font-semibold whitespace-nowrap">{r.size}</td>
                    <td className="text-right">{format.bare(r.velocity, "velocity")}</td>
                    <td className="text-right">{format.bare(r.friction, "head")}</td>
                    <td className="text-right">{format.bare(r.fittings, "head")}</td>
                    <td className={`text-right ${r.surge.holds ? "" : "font-bold text-dry"}`}>
                      {format.bare(r.surge.peak, "pressure")}
                    </td>
                    <td className="text-right">{format.bare(r.rating, "pressure")}</td>
                    <td className="text-[0.8125rem]">
                      {r.says}
                      {!r.surge.holds &&
                        `; ${r.surge.says}${r.surge.closing > 0 && r.surge.closing < 600 ? ` (${r.surge.closing.toFixed(1)} s)` : ""}`}
                      {r.regime !== "turbulent" &&
                        `; ${r.regime === "laminar" ? "laminar" : "between laminar and turbulent"}`}
                    </td>
                  </Row>
                ))}
              </Table>
              <Chart
                title="Loss over the whole length"
                x={{ label: "flow", quantity: "flow" }}
                y={{ label: "head lost", quantity: "head" }}
                lines={found.curves.map(([size, points]) => ({
                  name: String(size),
                  points: points as [number, number][],
                  tone: size === found.pick ? "var(--color-water)" : "var(--color-ink)",
                }))}
                marks={picked ? [{ at: [asked.flow, picked.friction] as const, label: `${found.pick}` }] : []}
              />
              {found.pick && (
                <SendToJob
                  label={`Give ${found.pick} to a run of`}
                  verb="Give it"
                  done="It has that size."
                  stage="survey"
                  of={runsOf}
                  change={onRun({ series: asked.series, size: found.pick })}
                />
              )}
              <Button aria-expanded={table} onClick={() => setTable(!table)}>
                {table ? "Close the friction table" : "Friction table of this series"}
              </Button>
              {table && <Friction series={asked.series} format={format} />}
            </>
          )}
        </section>
      </div>
      <Drain reference={reference} format={format} />
    </>
  );
}

function Friction({ series, format }: { series: string; format: Formatter }) {
  const query = useQuery({
    queryKey: ["friction", series, format.system],
    queryFn: () => api.frictionTable(series, format.system),
  });
  const found = query.data;
  if (!found) return null;
  const per = format.system === "us" ? "ft in 100 ft" : "m in 100 m";
  return (
    <section aria-label="Friction table">
      <Heading>Head lost, {per}</Heading>
      <Table
        caption="Friction table"
        head={[format.unit("flow"), ...found.sizes]}
        numbers={found.sizes.map((_, i) => i + 1)}
      >
        {found.flows.map((f, i) => (
          <Row key={f}>
            <td>{format.bare(f, "flow")}</td>
            {found.losses[i]?.map((h, j) => (
              <td key={found.sizes[j]} className="text-right">
                {h == null ? "" : h < 0.1 ? h.toFixed(3) : h.toFixed(h < 10 ? 2 : 1)}
              </td>
            ))}
          </Row>
        ))}
      </Table>
      <p className="text-[0.8125rem] text-muted">Blank above 3.5 m/s. {found.source}.</p>
    </section>
  );
}

/** A fall as it is written: per cent, or one in so many; null where it is neither. */
function fallOf(text: string, mark: DecimalMark): number | null {
  const [, one, so] = /^\s*1\s*(in|:)\s*([0-9.,]+)\s*$/i.exec(text) ?? [];
  const figure = numeral(so ?? text, mark);
  if (figure === null || figure <= 0) return null;
  return one ? 1 / figure : figure / 100;
}

/** The same question for a drain: depth, velocity, and whether it keeps itself clean. */
function Drain({ reference, format }: { reference: Reference; format: Formatter }) {
  const drains = reference.series.filter((s) => s.kind === "drain");
  const [series, setSeries] = useInAddress("drain", "sewer-sdr35");
  const [flow, setFlow] = useInAddress("drain_flow", 1e-3);
  const [fall, setFall] = useInAddress("fall", "1");
  const slope = fallOf(fall, markOf(format.system));
  const query = useQuery({
    queryKey: ["drain", series, flow, slope, format.system],
    queryFn: () => api.benchDrain({ series, flow, slope: slope ?? 0, units: format.system }),
    enabled: slope !== null,
    placeholderData: (b) => b,
  });
  const fits = query.error ? undefined : query.data?.find((d) => d.runs.fits && d.runs.cleans);
  return (
    <section aria-label="Drain" className="asks mt-6 max-w-xl">
      <Heading>A drain that runs by its fall</Heading>
      <Pick label="Drain pipe" options={drains.map((s) => [s.id, s.name] as const)} value={series} onPick={setSeries} />
      <div className="mt-1 grid grid-cols-2 gap-2">
        <Typed label="Drain flow" quantity="flow" value={flow} onValue={setFlow} />
        <label className="flex flex-col text-[0.8125rem] text-muted">
          Fall: % (1 in 100), or "1 in 60"
          <input
            value={fall}
            inputMode="text"
            aria-invalid={slope === null}
            className="min-h-[38px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
            onChange={(e) => setFall(e.target.value)}
          />
        </label>
      </div>
      {query.error instanceof Refused && <Said problem={query.error.problem} />}
      {slope === null && (
        <p role="alert" className="mt-0.5 text-[0.8125rem] text-fault">
          Type the fall in per cent, such as 1.5, or as "1 in 60".
        </p>
      )}
      {slope !== null && !query.error && query.data && (
        <Table caption="Drain sizes" head={["size", "depth", format.unit("velocity"), ""]} numbers={[1, 2]}>
          {query.data.map((d) => (
            <Row key={d.size}>
              <td>{d.size}</td>
              <td className="text-right">{Math.round(d.runs.depth * 100)} %</td>
              <td className="text-right">{format.bare(d.runs.velocity, "velocity")}</td>
              <td className={`text-[0.8125rem] ${d.runs.fits && d.runs.cleans ? "" : "font-semibold text-dry"}`}>
                {d.runs.says}
              </td>
            </Row>
          ))}
        </Table>
      )}
      {slope !== null && fits && (
        <SendToJob
          label={`Give ${fits.size} to a run of`}
          verb="Give it"
          done="It has that size."
          stage="survey"
          of={runsOf}
          change={onRun({ series, size: fits.size })}
        />
      )}
    </section>
  );
}
