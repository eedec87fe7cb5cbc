import { memo, useState } from "react";
import { rightNow } from "../../api/clock";
import type { Joint } from "../../api/types";
import { jointState } from "../../drawing/dress";
import { JointMark, stateTone } from "../../drawing/joints";
import { useReadyJob, useStanding } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Person } from "../../job/Person";
import { useFormat } from "../../ui/context";
import { clockTime } from "../../ui/format";
import { Button, Heading, Pick, Title } from "../../ui/parts";
import { useNow } from "../../ui/useNow";
import { ConditionsHere } from "../ConditionsHere";
import { Lost } from "../keep/Lost";
import { Problems, StageProblems } from "../Problems";
import { Weather } from "../Weather";
import { ChangeoverSteps } from "./ChangeoverSteps";
import { JointCard } from "./JointCard";

/** Parts of the work that are listed before all are asked for. */
const MANY = 60;

type Filter = "todo" | "dry" | "all";

/** Make: one joint at a time, in a workable order. */
export function MakeSheet() {
  const { plan, derived } = useReadyJob();
  const format = useFormat();
  const { readiness } = useStanding();
  const selected = useJob((s) => s.selected);
  const select = useJob((s) => s.select);
  const [filter, setFilter] = useState<Filter>("todo");
  const [all, setAll] = useState(false);
  const { work, groups, joints } = derived;
  const state = (id: string) => jointState(readiness, id).state;
  const known = new Map(joints.map((j) => [j.id, j]));
  const todo = work.filter((t) => ["planned", "dry"].includes(state(t.joint)));
  // by their own times: a joint may wait whatever its state is called
  const waiting = Object.values(readiness.joints).some((j) => Math.max(j.set_at ?? 0, j.cured_at ?? 0) > rightNow());
  const now = useNow(waiting);
  const at = selected && known.has(selected) ? selected : (todo[0]?.joint ?? null);
  const index = work.findIndex((t) => t.joint === at);
  const rows = work.filter((t) =>
    filter === "all"
      ? true
      : filter === "dry"
        ? state(t.joint) === "dry"
        : ["planned", "dry", "leaks"].includes(state(t.joint)),
  );
  const shown = new Map(rows.map((t) => [t.joint, t]));
  const made = work.length - todo.length;
  const listed = groups.filter((g) => g.joints.some((j) => shown.has(j)));
  const angles = work.filter((t) => t.angle && state(t.joint) === "planned").length;
  const hands = Number(plan.conditions?.crew ?? "1");
  const go = (step: number) => {
    const next = work[index + step];
    if (next) select(next.joint);
  };
  return (
    <>
      <Title note={`${made} of ${work.length} joints made`}>
        {index >= 0 ? `Joint ${index + 1} of ${work.length}` : "Make"}
      </Title>
      <div
        className="mb-3 h-2 rounded-full bg-line"
        role="progressbar"
        aria-label="Joints made"
        aria-valuemin={0}
        aria-valuemax={work.length}
        aria-valuenow={made}
      >
        <div className="h-2 rounded-full bg-water" style={{ width: `${(made / Math.max(1, work.length)) * 100}%` }} />
      </div>
      {at && known.get(at) && (
        <JointCard
          key={at}
          joint={known.get(at) as NonNullable<ReturnType<typeof known.get>>}
          why={work[index]?.why ?? ""}
          angle={work[index]?.angle ?? false}
          now={now}
          onMove={go}
        />
      )}
      <ChangeoverSteps />
      <Problems problems={readiness.held} />
      <Lost />
      <StageProblems stage="make" />
      {!work.length && <p className="text-muted">There are no joints yet: draw the line first.</p>}
      <Person />
      <ConditionsHere
        title="How warm and damp it is"
        note={`${format(plan.conditions.air_temperature, "temperature")}, ${format(plan.conditions.humidity, "humidity")}${plan.conditions.weather === "said" ? "" : ", assumed"}`}
        names={["air_temperature", "humidity", "weather", "crew"]}
      >
        <Weather />
      </ConditionsHere>
      {work.length > 0 && (
        <section aria-label="Working order">
          <Heading>Working order</Heading>
          <Pick
            label="Show"
            hideLabel
            options={[
              ["todo", `to make (${todo.length})`],
              ["dry", "dry only"],
              ["all", `all (${work.length})`],
            ]}
            value={filter}
            onPick={(v) => setFilter(v as Filter)}
          />
          {angles > 0 && (
            <p className="mt-2 text-[0.875rem]">
              Before the first joint is made, fit it all dry and mark the angle of {angles} joint{angles > 1 ? "s" : ""}
              .
            </p>
          )}
          {listed.slice(0, all ? listed.length : MANY).map((g) => {
            const mine = g.joints.flatMap((j) => shown.get(j) ?? []);
            return (
              <section
                key={g.id}
                aria-label={g.title}
                className="mt-3 [contain-intrinsic-size:auto_300px] [content-visibility:auto]"
              >
                <h3 className="border-b-2 border-line font-semibold">
                  {g.title}
                  {hands > 1 && <span className="ml-2 text-[0.8125rem] text-muted">person {g.hand}</span>}
                </h3>
                {g.ahead > 0 && (
                  <p className="text-[0.8125rem] text-muted">
                    {g.ahead > 1
                      ? `One joint at a time: coat it, push it home, hold. Where one move closes several, coat no more than ${g.ahead} before it; fewer in the sun.`
                      : "One joint at a time: coat it, push it home, hold."}
                  </p>
                )}
                <ol>
                  {mine.map((t) => (
                    <JointRow
                      key={t.joint}
                      joint={known.get(t.joint)}
                      group={g.title}
                      angle={t.angle}
                      current={t.joint === at}
                      now={now}
                    />
                  ))}
                </ol>
              </section>
            );
          })}
          {!all && listed.length > MANY && (
            <Button className="mt-2" onClick={() => setAll(true)}>
              Show all {listed.length} parts of the work
            </Button>
          )}
        </section>
      )}
    </>
  );
}

type RowProps = { joint: Joint | undefined; group: string; angle: boolean; current: boolean; now: number };

const JointRow = memo(function JointRow({ joint, group, angle, current, now }: RowProps) {
  const { readiness } = useStanding();
  const select = useJob((s) => s.select);
  if (!joint) return null;
  const mine = jointState(readiness, joint.id);
  return (
    <li>
      <button
        type="button"
        aria-current={current}
        className="flex min-h-[44px] w-full items-center gap-2 border-b border-line py-1 text-left aria-[current=true]:bg-water-soft"
        onClick={() => select(joint.id)}
      >
        <JointMark method={joint.method} state={mine.state} wrong={!mine.matches} />
        <span className="min-w-0 grow">
          <span className="block">
            <span className="inline-block first-letter:uppercase">{joint.method}</span> {joint.size}
            {joint.place !== group && `, ${joint.place}`}
            {joint.towards && `, towards ${joint.towards}`}
          </span>
          <span className="block text-[0.8125rem] text-muted">
            {joint.a.what} into {joint.b.what}
          </span>
        </span>
        <span className="text-right text-[0.8125rem]" style={{ color: stateTone[mine.state].ring }}>
          {angle && <span className="block text-muted">angle</span>}
          {stateTone[mine.state].words}
          {mine.cured_at && mine.cured_at > now ? ` until ${clockTime(mine.cured_at)}` : ""}
        </span>
      </button>
    </li>
  );
});
