import { Dialog } from "radix-ui";
import type { Plan, Reference, Run } from "../api/types";
import { useJob } from "../job/jobStore";
import { namesOf } from "../job/kinds";
import { same } from "../job/merge";
import { useReference } from "../ui/context";
import { DialogFrame } from "../ui/DialogFrame";
import { Button } from "../ui/parts";

/** Others changed the same things: what both sides have, and a choice for those alone. The one not taken stays behind Undo. */
export function Clash() {
  const reference = useReference();
  const clash = useJob((s) => s.clash);
  const settle = useJob((s) => s.settle);
  if (!clash) return null;
  const { base, mine, theirs, both } = clash;
  const title = "Someone changed the same";
  const says = `Both of you changed ${told(reference, both, mine, theirs)}. Everything else of both is kept.`;
  return (
    <Asked title={title} says={`${says} Nothing is lost: what you do not take stays behind Undo.`}>
      <div className="grid gap-3 sm:grid-cols-2">
        <Side title="Yours" plan={mine} base={base} />
        <Side title="Theirs" plan={theirs} base={base} />
        <Button tone="main" big onClick={() => settle("mine")}>
          Keep mine
        </Button>
        <Button big onClick={() => settle("theirs")}>
          Take theirs
        </Button>
      </div>
    </Asked>
  );
}

/** A step back that would undo what others have changed since. */
export function AskUndo() {
  const reference = useReference();
  const asking = useJob((s) => s.asking);
  const plan = useJob((s) => s.plan);
  const answer = useJob((s) => s.answerAsked);
  if (!asking || !plan) return null;
  const says = `Since then others have changed ${told(reference, asking.both, asking.plan, plan)}. Going on puts that back to what you had.`;
  return (
    <Asked title="Others have been here since" says={says}>
      <div className="grid gap-3 sm:grid-cols-2">
        <Button big onClick={() => answer(false)}>
          Leave it as it is
        </Button>
        <Button tone="dry" big onClick={() => answer(true)}>
          Go on all the same
        </Button>
      </div>
    </Asked>
  );
}

function Asked({ title, says, children }: { title: string; says: string; children: React.ReactNode }) {
  return (
    <Dialog.Root open>
      <DialogFrame title={title} says={says} width="max-w-[42rem]">
        {children}
      </DialogFrame>
    </Dialog.Root>
  );
}

const runName = (names: ReadonlyMap<string, string>, r: Run): string =>
  `the pipe from ${names.get(r.a.point)} to ${names.get(r.b.point)}`;

/** What things are called, on whichever side they still are. */
function told(reference: Reference, ids: readonly string[], ...plans: Plan[]): string {
  const names = new Map(
    plans.flatMap((p) => [
      ...namesOf(reference, p),
      ...p.runs.map((r) => [r.id, runName(namesOf(reference, p), r)] as const),
      ...p.scenarios.map((s) => [s.id, s.name] as const),
    ]),
  );
  const all = ids.map((id) => names.get(id) ?? "something else");
  return all.length > 6 ? `${all.slice(0, 6).join(", ")} and ${all.length - 6} more` : all.join(", ");
}

function Side({ title, plan, base }: { title: string; plan: Plan; base: Plan }) {
  const reference = useReference();
  const was = new Map([...base.points, ...base.runs].map((x) => [x.id, x]));
  const changed = [...plan.points, ...plan.runs].filter((x) => !same(was.get(x.id), x)).map((x) => x.id);
  const here = new Set([...plan.points, ...plan.runs].map((x) => x.id));
  const gone = [...was.keys()].filter((id) => !here.has(id));
  return (
    <section className="border border-line p-3">
      <h3 className="font-bold">{title}</h3>
      <p>
        {plan.points.length} points, {plan.runs.length} runs
      </p>
      <p className="text-[0.875rem] text-muted">
        {changed.length > 0 && `changed ${told(reference, changed, plan)}. `}
        {gone.length > 0 && `took out ${told(reference, gone, base)}. `}
        {!changed.length && !gone.length && "conditions, prices or names only"}
      </p>
    </section>
  );
}
