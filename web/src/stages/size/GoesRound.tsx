import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, Refused } from "../../api/client";
import type { Befalls, Trace } from "../../api/types";
import { useWater } from "../../drawing/waterStore";
import { useNames, useReadyJob } from "../../job/hooks";
import { Chart } from "../../ui/Chart";
import { useFormat } from "../../ui/context";
import { Button, Heading, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

/** Pits that pumps lift from: what each pump gives by itself against what comes, and how long its battery lasts. */
export function Pits() {
  const { derived } = useReadyJob();
  const pits = derived.rounds?.pits ?? [];
  if (!pits.length) return null;
  return (
    <section aria-label="Pits and their pumps">
      <Heading>Pits and their pumps</Heading>
      {pits.map((p) => (
        <p
          key={p.point}
          className={`mb-1 border-l-4 pl-3 ${p.holds ? "border-line" : "border-dry font-semibold text-dry"}`}
        >
          {p.says}
        </p>
      ))}
    </section>
  );
}

/** Bodies of water: what each holds and how often it goes round, jets, air, and what runs back; then what happens if. */
export function GoesRound() {
  const { derived } = useReadyJob();
  const rounds = derived.rounds;
  if (!rounds?.bodies.length) return null;
  const lines = [...rounds.back, ...rounds.drains, ...rounds.jets, ...rounds.air, ...rounds.manifolds];
  return (
    <section aria-label="Circulation">
      <Heading>Circulation</Heading>
      {rounds.bodies.map((b) => (
        <div key={b.point} className="mb-2 border-l-4 border-water pl-3">
          {b.says.map((s) => (
            <p key={s}>{s}</p>
          ))}
        </div>
      ))}
      {lines.map((l) => (
        <p
          key={l.says}
          className={`mb-1 border-l-4 pl-3 ${"holds" in l && !l.holds ? "border-dry font-semibold text-dry" : "border-line"}`}
        >
          {l.says}
        </p>
      ))}
      <Happens />
    </section>
  );
}

const HOUR = 3600;

/** What comes of it when something goes wrong: asked for, followed over time on the drawing, with a word for what mattered. */
function Happens() {
  const { job } = useReadyJob();
  const format = useFormat();
  const [chosen, setChosen] = useState<{ mishap: Befalls["mishap"]; where: string }>({
    mishap: "pump stops",
    where: "",
  });
  const [long, setLong] = useState(2 * HOUR);
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState("");
  const [found, setFound] = useState<{ of: string; trace: Trace } | null>(null);
  const stop = useRef<AbortController | null>(null);
  const can = useQuery({ queryKey: ["mishaps", job.id, job.revision], queryFn: () => api.mishaps(job.id) });
  const mishap = can.data?.find((m) => m.mishap === chosen.mishap) ?? can.data?.[0];
  const where = mishap?.things.some(([id]) => id === chosen.where) ? chosen.where : (mishap?.things[0]?.[0] ?? "");
  const asked = JSON.stringify([job.id, job.revision, mishap?.mishap, where, long]);
  useEffect(() => () => stop.current?.abort(), []);
  const follow = async () => {
    if (!mishap) return;
    const mine = new AbortController();
    stop.current?.abort();
    stop.current = mine;
    setBusy(true);
    setFault("");
    try {
      const trace = await api.happens(job.id, { mishap: mishap.mishap, where, hours: long / HOUR }, mine.signal);
      if (stop.current === mine) setFound({ of: asked, trace });
    } catch (error) {
      if (stop.current !== mine || mine.signal.aborted) return;
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem.detail);
    } finally {
      if (stop.current === mine) setBusy(false);
    }
  };
  return (
    <section aria-label="What-if">
      <Heading>What-if</Heading>
      <div className="grid grid-cols-2 gap-2">
        <Pick
          label="This happens"
          options={(can.data ?? []).map((m) => [m.mishap, m.says] as const)}
          value={mishap?.mishap ?? ""}
          onPick={(m) => setChosen({ mishap: m as Befalls["mishap"], where: "" })}
        />
        {mishap && mishap.things.length > 0 && mishap.mishap !== "power fails" && (
          <Pick
            label="At"
            options={mishap.things}
            value={where}
            onPick={(to) => setChosen({ mishap: mishap.mishap, where: to })}
          />
        )}
        <Typed
          label="Followed for"
          quantity="hours"
          value={long}
          low={0.1 * HOUR}
          high={168 * HOUR}
          limits={`between ${format(0.1 * HOUR, "hours")} and a week`}
          onValue={setLong}
        />
        <div className="flex items-end">
          {busy ? (
            <Button
              onClick={() => {
                stop.current?.abort();
                stop.current = null;
                setBusy(false);
              }}
            >
              Stop
            </Button>
          ) : (
            <Button tone="main" disabled={!mishap} onClick={() => void follow()}>
              Run simulation
            </Button>
          )}
        </div>
      </div>
      {busy && <p role="status">It is being followed …</p>}
      {fault && (
        <p role="alert" className="text-fault">
          {fault}
        </p>
      )}
      {found && found.of === asked && <Followed key={asked} trace={found.trace} />}
    </section>
  );
}

const clock = (seconds: number) => {
  const minutes = Math.floor(seconds / 60);
  return `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} min`;
};

/** It as it went: the answer, what mattered with its time, the levels as a chart, and a hand on the clock that the drawing follows. */
function Followed({ trace }: { trace: Trace }) {
  const { derived } = useReadyJob();
  const { waters } = derived.lines;
  const format = useFormat();
  const stand = useWater((s) => s.stand);
  const [at, setAt] = useState(trace.times.length - 1);
  const names = useNames();
  useEffect(() => {
    stand(Object.fromEntries(Object.entries(trace.levels).map(([id, l]) => [id, l[at] ?? 0])));
    return () => stand(null);
  }, [trace, at, stand]);
  const nearest = (time: number) => {
    const next = trace.times.findIndex((t) => t >= time);
    return next < 0 ? trace.times.length - 1 : next;
  };
  const bad = trace.happened.some((h) => h.bad) || trace.left > 1e-6;
  return (
    <div>
      <p role="status" className={`mt-2 border-l-4 pl-3 font-semibold ${bad ? "border-dry" : "border-water"}`}>
        {trace.says}
      </p>
      {trace.helps.map((h) => (
        <p key={h} className="border-l-4 border-line pl-3 text-[0.875rem]">
          {h}
        </p>
      ))}
      <label className="mt-2 block text-[0.8125rem] text-muted">
        At {clock(trace.times[at] ?? 0)}
        <input
          type="range"
          min={0}
          max={trace.times.length - 1}
          value={at}
          aria-valuetext={clock(trace.times[at] ?? 0)}
          className="block min-h-[36px] w-full accent-water pointer-coarse:min-h-[44px]"
          onChange={(e) => setAt(Number(e.target.value))}
        />
      </label>
      <p className="text-[0.875rem]">
        {Object.entries(trace.levels)
          .map(([id, l]) => `${names.get(id)} ${format((l[at] ?? 0) - (waters[id]?.bottom ?? 0), "length")} deep`)
          .join(", ")}
        {Object.entries(trace.flows)
          .map(([id, q]) => {
            const now = q[at] ?? 0;
            const still = Math.abs(now) < 1e-7;
            return `; ${names.get(id)} ${still ? "stands still" : now > 0 ? `moves ${format(now, "flow")}` : `lets ${format(-now, "flow")} back`}`;
          })
          .join("")}
      </p>
      {trace.happened.length > 0 && (
        <ol aria-label="What mattered">
          {trace.happened.map((h) => (
            <li key={`${h.at} ${h.says}`} className="flex gap-2 border-b border-line py-0.5">
              <Button tone="quiet" className="shrink-0 tabular-nums" onClick={() => setAt(nearest(h.at))}>
                {clock(h.at)}
              </Button>
              <span className={`self-center ${h.bad ? "font-semibold text-dry" : ""}`}>{h.says}</span>
            </li>
          ))}
        </ol>
      )}
      <Chart
        title="Levels over time"
        x={{ label: "time", quantity: "hours", zero: true }}
        y={{ label: "water over its floor", quantity: "length", zero: true }}
        lines={Object.entries(trace.levels).map(([id, l]) => ({
          name: names.get(id) ?? id,
          points: l.map((z, i) => [trace.times[i] ?? 0, z - (waters[id]?.bottom ?? 0)] as const),
        }))}
      />
    </div>
  );
}
