import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import { rightNow } from "../../api/clock";
import type { Judged, ProblemDocument, Reading, Section } from "../../api/types";
import { useReadyJob, useSay } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { Chart } from "../../ui/Chart";
import { useFormat } from "../../ui/context";
import { wait } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button, Pick } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";

/** What it was read with; null for what the core takes where nothing is said. */
type Taken = { kind: "gauge" | "logger"; name: string; error: number | null; thermometer: number | null };
type Log = { csv?: string; readings?: Reading[] };
type State =
  | { kind: "none" }
  | { kind: "watching"; readings: readonly Reading[]; stop: AbortController }
  | { kind: "judged"; found: Judged; readings: readonly Reading[] }
  | { kind: "failed"; problem: ProblemDocument };

/** How to flush a section, and a test's readings judged: warmth and stretch taken off, the leak with its doubt. */
export function Readings({ section }: { section: Section }) {
  const { job } = useReadyJob();
  const format = useFormat();
  const [open, setOpen] = useState(false);
  const [csv, setCsv] = useState("");
  const [madeUp, setMadeUp] = useState<number | null>(null);
  const [instrument, setInstrument] = useState<Taken>({ kind: "gauge", name: "", error: null, thermometer: null });
  const [state, setState] = useState<State>({ kind: "none" });
  const flush = useQuery({
    queryKey: ["flush", job.id, job.revision, section.id],
    queryFn: () => api.flush(job.id, section.id),
    enabled: open,
  });
  const hold = useQuery({
    queryKey: ["hold", job.id, job.revision, section.id],
    queryFn: () => api.hold(job.id, section.id),
    enabled: open,
  });
  const fell = section.sort === "drain" ? "water level" : "pressure";
  const used = {
    ...instrument,
    error: instrument.error ?? hold.data?.gauge_error ?? null,
    thermometer: instrument.thermometer ?? hold.data?.thermometer ?? null,
  };
  const { say, fault } = useSay();
  const [kept, setKept] = useState(false);
  const keep = async (found: Judged) => {
    const now = rightNow();
    const event = newEvent("tested", {
      at: now - found.lasted,
      ended: now,
      section: section.id,
      pressure: found.readings[0]?.pressure ?? 0,
      passed: found.tight,
      note: found.verdict,
      readings: found.readings,
      instrument: found.simulated ? { kind: "simulated", name: "", error: null, thermometer: null } : used,
    });
    setKept(await say([event]));
  };
  const judge = async (log: Log) => {
    setKept(false);
    try {
      const found = await api.judge(job.id, section.id, {
        ...log,
        made_up: madeUp,
        ...(used.error !== null && { gauge_error: used.error }),
        ...(instrument.thermometer !== null && { thermometer: instrument.thermometer }),
      });
      setState({ kind: "judged", found, readings: found.readings });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setState({ kind: "failed", problem: error.problem });
    }
  };
  const watch = async (leak: number) => {
    const readings: Reading[] = [];
    const stop = new AbortController();
    setState({ kind: "watching", readings: [], stop });
    try {
      await api.watchGauge(job.id, section.id, leak, stop.signal, (r) => {
        readings.push(r);
        setState({ kind: "watching", readings: [...readings], stop });
      });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      if (!stop.signal.aborted) return setState({ kind: "failed", problem: error.problem });
    }
    await judge({ readings });
  };
  return (
    <div className="mt-2">
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close flushing and readings" : section.sort === "run" ? "Flush it" : "Flush it, and judge readings"}
      </Button>
      {open && flush.data && (
        <div className="mt-2">
          <p>
            {flush.data.says} {flush.data.ends.length > 0 && `In turn: ${flush.data.ends.join(", ")}.`}
          </p>
          <p className="text-muted">
            It holds {format(flush.data.volume, "volume")}; flush with {format(flush.data.flow, "flow")} for{" "}
            {wait(flush.data.seconds)} or more.
            {section.sort !== "run" &&
              ` Pumping up takes ${format(flush.data.fill, "volume")} beyond full: much more means air.`}
          </p>
          {section.sort !== "run" && (
            <>
              {hold.data && (
                <>
                  <p className="mt-1">{hold.data.says}</p>
                  <dl
                    className="mt-1 grid grid-cols-[1fr_auto] gap-x-3 border-y border-line py-1.5"
                    aria-label="Test plan"
                  >
                    <dt className="text-muted">
                      {section.sort === "drain" ? "Fill, to this at its low end" : "Pump up to"}
                    </dt>
                    <dd className="text-right font-bold">{format(section.test, "pressure")}</dd>
                    <dt className="text-muted">Hold for</dt>
                    <dd className="text-right font-bold">{wait(hold.data.hold)}</dd>
                    <dt className="text-muted">A fall that passes</dt>
                    <dd className="text-right font-bold">
                      {section.sort === "drain"
                        ? format(hold.data.level, "cut")
                        : format(hold.data.allowed, "pressure")}
                    </dd>
                    <dt className="text-muted">Least leak that shows</dt>
                    <dd className="text-right">{format(hold.data.finds, "leak")}</dd>
                    {section.sort === "pressure" && (
                      <>
                        <dt className="text-muted">One kelvin (1.8 °F) warmer moves the gauge by</dt>
                        <dd className="text-right">{format(hold.data.per_kelvin, "pressure")}</dd>
                      </>
                    )}
                    {section.sort === "pressure" && (
                      <>
                        <dt className="text-muted">Weakest: {section.weakest}, good for</dt>
                        <dd className="text-right">{format(section.limit, "pressure")}</dd>
                      </>
                    )}
                  </dl>
                </>
              )}
              {section.sort === "pressure" && (
                <Typed
                  className="mt-2"
                  label="Water pumped in from full to that pressure, where it was measured"
                  quantity="volume"
                  value={madeUp}
                  onValue={setMadeUp}
                  onClear={() => setMadeUp(null)}
                  hint={`should be ${format(flush.data.fill, "volume")}`}
                />
              )}
              <div className="mt-2 grid grid-cols-2 gap-2">
                <Pick
                  label="Read with"
                  options={[
                    ["gauge", "a gauge, by hand"],
                    ["logger", "a logger's file"],
                  ]}
                  value={instrument.kind}
                  onPick={(kind) => setInstrument((was) => ({ ...was, kind: kind as Taken["kind"] }))}
                />
                <Words
                  label="Its number or make-up"
                  value={instrument.name}
                  onValue={(name) => setInstrument((was) => ({ ...was, name }))}
                />
                <Typed
                  label={section.sort === "drain" ? "The level is read to within" : "It reads to within"}
                  quantity={fell}
                  value={used.error}
                  onValue={(error) => setInstrument((was) => ({ ...was, error }))}
                />
                {section.sort === "pressure" && (
                  <Typed
                    label="The thermometer to within"
                    quantity="temperature change"
                    value={used.thermometer}
                    onValue={(thermometer) => setInstrument((was) => ({ ...was, thermometer }))}
                  />
                )}
              </div>
              <label className="mt-2 block text-[0.8125rem] text-muted">
                Readings as CSV: seconds or minutes, then bar, psi or kpa; celsius where it was read
                <textarea
                  rows={4}
                  value={csv}
                  className="block w-full border border-edge bg-panel p-1 text-[0.9375rem] text-ink"
                  placeholder={"minutes,bar,celsius\n0,6.0,12\n5,5.9,12"}
                  onChange={(e) => setCsv(e.target.value)}
                />
              </label>
              <div className="mt-1 flex flex-wrap gap-2">
                <Button disabled={!csv.trim()} onClick={() => void judge({ csv })}>
                  Judge these
                </Button>
                <Button onClick={() => void watch(0)}>Simulated gauge, tight</Button>
                <Button onClick={() => void watch(5e-8)}>Simulated gauge, leaking</Button>
              </div>
              {state.kind === "watching" && (
                <div role="status" aria-label="Gauge" className="mt-2 border border-line bg-panel p-2">
                  <p className="text-[1.75rem] font-bold tabular-nums">
                    {state.readings.length ? format(state.readings.at(-1)?.pressure, "pressure") : "–"}
                    <span className="ml-3 text-[0.9375rem] font-normal text-muted">
                      after {wait(state.readings.at(-1)?.at ?? 0)}
                    </span>
                  </p>
                  <GaugeLog readings={state.readings} />
                  <Button onClick={() => state.stop.abort()}>Stop here and judge</Button>
                </div>
              )}
              {state.kind === "failed" && <Said problem={state.problem} />}
              {state.kind === "judged" && (
                <>
                  <Box tone={state.found.tight && !state.found.simulated ? "proved" : "dry"}>
                    {state.found.simulated && (
                      <p className="font-bold">Simulated readings: for practice, they do not count as a test.</p>
                    )}
                    <p className="font-bold first-letter:uppercase">{state.found.verdict}.</p>
                    {state.found.missing.map((m) => (
                      <p key={m} className="first-letter:uppercase">
                        {m}.
                      </p>
                    ))}
                    <p>
                      In {wait(state.found.lasted)} it fell {format(state.found.fall, fell)}
                      {section.sort === "pressure" && `, ${format(state.found.by_warmth, "pressure")} of it by warmth`}.
                      What is left is a leak of {format.bare(state.found.leak, "leak")} ±{" "}
                      {format(state.found.doubt, "leak")}.
                    </p>
                    {state.found.search.map((s) => (
                      <p key={s}>{s}</p>
                    ))}
                    {kept ? (
                      <p role="status">Kept with the section's tests.</p>
                    ) : (
                      <Button className="mt-1" onClick={() => void keep(state.found)}>
                        {state.found.simulated ? "Keep as practice" : "Keep this as the section's test"}
                      </Button>
                    )}
                    {fault && <Said problem={fault} />}
                  </Box>
                  <GaugeLog readings={state.readings} />
                </>
              )}
            </>
          )}
        </div>
      )}
    </div>
  );
}

function GaugeLog({ readings }: { readings: readonly Reading[] }) {
  if (readings.length < 2) return null;
  return (
    <Chart
      title="Gauge"
      x={{ label: "minutes", quantity: null }}
      y={{ label: "pressure", quantity: "pressure", zero: false }}
      lines={[{ name: "read", points: readings.map((r) => [r.at / 60, r.pressure]) }]}
    />
  );
}
