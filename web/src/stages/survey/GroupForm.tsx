import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { GroupAct, Point } from "../../api/types";
import { detailOf } from "../../drawing/details";
import { viewWords } from "../../drawing/projection";
import { useTools } from "../../drawing/toolStore";
import { useLook } from "../../drawing/viewStore";
import { useAsked } from "../../job/asked";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, isHeadAt, kindOf } from "../../job/kinds";
import { putInZone } from "../../job/zones";
import { useFormat, useReference } from "../../ui/context";
import { Button, Check, Fold, Heading, Pick } from "../../ui/parts";
import { Counted, Words } from "../../ui/Typed";
import { type ActProps, Fills, Rings } from "./Fills";
import { NozzlePick } from "./NozzlePick";

/** Several things chosen together: choose more, move, copy, repeat, turn, mirror, give them the same, carry or keep them. */
export function GroupForm() {
  const { plan, derived } = useReadyJob();
  const reference = useReference();
  const { chosen: all, choose, take } = useTools();
  const { says, ask } = useAsked();
  const here = new Set([...plan.points.map((p) => p.id), ...plan.runs.map((r) => r.id)]);
  const chosen = all.filter((id) => here.has(id));
  const points = plan.points.filter((p) => chosen.includes(p.id));
  const runs = plan.runs.filter((r) => chosen.includes(r.id) || [r.a, r.b].every((e) => chosen.includes(e.point)));
  const kinds = [...new Set(plan.points.map((p) => p.what.kind))];
  const act = async (what: GroupAct, body: Record<string, unknown>) => {
    const done = await ask((before) => api.group(what, { chosen, ...body }, before));
    if (done) choose(done.chosen);
    if (done) useLook.getState().place(); // what came may lie out of sight
  };
  const line = () => {
    const ids = new Set(chosen);
    for (const s of derived.lines.systems)
      if (s.points.some((p) => ids.has(p)) || runs.some((r) => s.points.includes(r.a.point)))
        for (const p of s.points) ids.add(p);
    choose([...ids]);
  };
  return (
    <section aria-label="Several things">
      <Heading
        note={
          <Button tone="quiet" onClick={() => take({ kind: "select" })}>
            Back to the list
          </Button>
        }
      >
        {points.length || runs.length
          ? `${points.length} ${points.length === 1 ? "thing" : "things"} and ${runs.length} ${runs.length === 1 ? "pipe" : "pipes"} chosen`
          : "Choose several things"}
      </Heading>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <Pick
          label="All of a kind"
          className="min-w-36 flex-1"
          options={[
            ["", "choose a kind"],
            ...kinds.map((k) => [k, reference.kinds.find((known) => known.kind === k)?.title ?? k] as const),
          ]}
          value=""
          onPick={(k) =>
            k && choose([...new Set([...chosen, ...plan.points.filter((p) => p.what.kind === k).map((p) => p.id)])])
          }
        />
        <Button disabled={!chosen.length} onClick={line}>
          Their whole line
        </Button>
        <Button onClick={() => choose(plan.points.map((p) => p.id))}>All</Button>
        <Button disabled={!chosen.length} onClick={() => choose([])}>
          None
        </Button>
      </div>
      {says && (
        <p role="status" className="mt-2 border-l-4 border-water bg-water-soft px-2 py-1">
          {says}
        </p>
      )}
      {chosen.length > 0 && (
        <>
          <Moves act={act} />
          <Give act={act} pipes={runs.length > 0} />
          {points.length > 2 && <Fills act={act} />}
          {points.some((p) => kindOf(reference, p.what)?.role === "mark") && <Rings act={act} />}
          <Nozzled points={points} />
          <IntoZone points={points} />
          <Carried chosen={chosen} />
          <MakeDetail points={points} />
          <Button tone="dry" className="mt-3" onClick={() => void act("take-away", {})}>
            Take them away
          </Button>
        </>
      )}
    </section>
  );
}

function Moves({ act }: ActProps) {
  const { system } = useFormat();
  const example = system === "us" ? "12 ft east" : "12 m east";
  const [by, setBy] = useState("");
  const [times, setTimes] = useState(6);
  const [joined, setJoined] = useState(true);
  return (
    <Fold title="Move, copy, repeat">
      <Words label={`How far and which way, such as ${example}, or 3 n, 0.5 up`} value={by} onValue={setBy} live />
      <div className="mt-2 flex flex-wrap gap-2">
        <Button disabled={!by.trim()} onClick={() => void act("move", { by })}>
          Move
        </Button>
        <Button disabled={!by.trim()} onClick={() => void act("move", { by, copy: true })}>
          Copy
        </Button>
        <Button onClick={() => void act("turn", { degrees: 90 })}>Turn left</Button>
        <Button onClick={() => void act("turn", { degrees: -90 })}>Turn right</Button>
        <Button onClick={() => void act("mirror", { across: "east-west" })}>Mirror east-west</Button>
        <Button onClick={() => void act("mirror", { across: "north-south" })}>Mirror north-south</Button>
      </div>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <Counted label="How many in all" value={times} low={2} high={200} onValue={setTimes} />
        <Check label="joined by pipe" checked={joined} onChange={(e) => setJoined(e.target.checked)} />
        <Button disabled={!by.trim()} onClick={() => void act("repeat", { by, times, joined })}>
          Repeat, each so far from the last
        </Button>
      </div>
    </Fold>
  );
}

function Give({ act, pipes }: ActProps & { pipes: boolean }) {
  const reference = useReference();
  const [depth, setDepth] = useState("");
  const [level, setLevel] = useState("");
  const [series, setSeries] = useState("-");
  const [size, setSize] = useState("-");
  const [situation, setSituation] = useState("-");
  const [practice, setPractice] = useState("");
  const [way, setWay] = useState("");
  const [existing, setExisting] = useState("-");
  const family = reference.series.find((s) => s.id === series);
  const asked = reference.practices.find((p) => p.question === practice);
  const change = {
    practice: practice || null,
    way,
    depth,
    level,
    series: series === "-" ? null : series,
    size: size === "-" ? null : size,
    situation: situation === "-" ? null : situation,
    existing: existing === "-" ? null : existing === "yes",
  };
  const none = Object.values(change).every((v) => v === null || v === "");
  const here = reference.practices.filter((p) => reference.at_a_place.includes(p.question));
  const same = ["-", "as each has it"] as const;
  return (
    <Fold title="Give them all the same">
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Words label="Depth of pipe below ground" value={depth} hint="as each has it" onValue={setDepth} live />
        <Words label="or level of the pipe" value={level} hint="as each has it" onValue={setLevel} live />
        {pipes && (
          <>
            <Pick
              label="Pipe"
              options={[same, ["", "the job's"], ...reference.series.map((s) => [s.id, s.name] as const)]}
              value={series}
              onPick={(v) => {
                setSeries(v);
                setSize("-");
              }}
            />
            <Pick
              label="Size"
              options={[same, ["", "worked out"], ...(family?.sizes.map((s) => [s.size, s.size] as const) ?? [])]}
              value={size}
              onPick={setSize}
            />
            <Pick
              label="Lies"
              options={[same, ...reference.situations.map((s) => [s, s] as const)]}
              value={situation}
              onPick={setSituation}
            />
          </>
        )}
        <Pick
          label="There already"
          options={[same, ["yes", "yes, existing"], ["no", "no, new"]]}
          value={existing}
          onPick={setExisting}
        />
        <Pick
          label="Done there in another way"
          options={[same, ...here.map((p) => [p.question, p.title] as const)]}
          value={practice || "-"}
          onPick={(v) => {
            setPractice(v === "-" ? "" : v);
            setWay("");
          }}
        />
        {asked && (
          <Pick
            label={asked.title}
            options={[["", "as in the rest of the job"], ...asked.options.map((o) => [o.option, o.says] as const)]}
            value={way}
            onPick={setWay}
          />
        )}
      </div>
      <Button className="mt-2" disabled={none} onClick={() => void act("give", change)}>
        Give it to them
      </Button>
    </Fold>
  );
}

/** The heads among the chosen things, given one nozzle. */
function Nozzled({ points }: { points: readonly Point[] }) {
  const heads = points.filter(isHeadAt);
  const now = new Set(heads.map((p) => p.what.nozzle));
  if (!heads.length) return null;
  return <NozzlePick heads={heads.map((p) => p.id)} now={now.size === 1 ? [...now][0] : ""} />;
}

/** What waters among the chosen things, put into a zone of the controller. */
function IntoZone({ points }: { points: readonly Point[] }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const [name, setName] = useState("");
  const heads = points.filter((p) => has(reference, p, "waters")).map((p) => p.id);
  if (!heads.length) return null;
  return (
    <Fold title="A zone of the controller" folded>
      <div className="flex flex-wrap items-end gap-2">
        <Words label="Zone called" value={name} hint={`Zone ${plan.zones.length + 1}`} onValue={setName} live />
        <Button onClick={() => edit((p) => putInZone(p, heads, name.trim() || `Zone ${p.zones.length + 1}`))}>
          Put {heads.length === 1 ? "it" : `these ${heads.length}`} into it
        </Button>
      </div>
    </Fold>
  );
}

/** A named detail of the drawing round what is chosen, seen as it is looked at now. */
function MakeDetail({ points }: { points: readonly Point[] }) {
  const edit = useJob((s) => s.edit);
  const { how, showDetail } = useLook();
  const { plan } = useReadyJob();
  const [name, setName] = useState("");
  const called = name.trim();
  const taken = plan.details.some((d) => d.name === called);
  if (!points.length) return null;
  return (
    <Fold title="A detail of the drawing" folded>
      <p className="text-[0.8125rem] text-muted">
        Only what lies here is shown in it, {viewWords(how)}; it is printed with the sheet.
      </p>
      <div className="flex flex-wrap items-end gap-2">
        <Words label="Detail called" value={name} hint="under the tank" onValue={setName} live />
        <Button
          disabled={!called || taken}
          onClick={() => {
            edit((p) => ({ ...p, details: [...p.details, detailOf(called, points, how)] }));
            showDetail(called);
          }}
        >
          Make the detail
        </Button>
      </div>
      {taken && <p className="text-fault">A detail is called that already: give it another name.</p>}
    </Fold>
  );
}

/** The chosen things as a part: in hand for this job or another, or kept under a name in the crew's book. */
function Carried({ chosen }: { chosen: readonly string[] }) {
  const { plan } = useReadyJob();
  const queries = useQueryClient();
  const carry = useTools((s) => s.carry);
  const [name, setName] = useState("");
  const [told, setTold] = useState("");
  const lift = async (called: string) => {
    try {
      return await api.lift(plan, chosen, called);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setTold(error.problem.detail);
      return null;
    }
  };
  const keep = async () => {
    const part = await lift(name.trim());
    if (!part) return;
    try {
      await api.addToBook(JSON.stringify({ format: "hydrarch/book/1", assemblies: [part] }));
      await queries.invalidateQueries({ queryKey: ["book"] });
      setTold(`${name.trim()} is saved: find it in Crew parts.`);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setTold(error.problem.detail);
    }
  };
  return (
    <Fold title="Use it again">
      <div className="flex flex-wrap items-end gap-2">
        <Button
          onClick={async () => {
            const part = await lift("Part in hand");
            if (part) carry(part);
          }}
        >
          Take it in hand, for here or another job
        </Button>
        <Words label="Keep it as an assembly called" value={name} onValue={setName} live />
        <Button disabled={!name.trim()} onClick={() => void keep()}>
          Keep it
        </Button>
      </div>
      {told && <p role="status">{told}</p>}
    </Fold>
  );
}
