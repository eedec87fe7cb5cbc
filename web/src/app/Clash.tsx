import { Dialog } from "radix-ui";
import type { Plan } from "../api/types";
import { Button } from "../ui/parts";
import { useJob } from "./jobStore";

type ClashProps = { mine: Plan; theirs: Plan; revision: number };

/** Someone saved first: both sides, and a choice. The one not taken stays behind Undo. */
export function Clash({ mine, theirs, revision }: ClashProps) {
  const settle = useJob((s) => s.settle);
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-[min(94vw,42rem)] -translate-x-1/2 -translate-y-1/2 border border-line bg-panel p-5">
          <Dialog.Title className="text-lg font-bold">Someone saved before you</Dialog.Title>
          <Dialog.Description className="mb-3">
            Revision {revision} came in while you were drawing. Nothing is lost: what you do not take stays behind Undo.
          </Dialog.Description>
          <div className="grid gap-3 sm:grid-cols-2">
            <Side title="Yours" plan={mine} other={theirs} />
            <Side title="Theirs" plan={theirs} other={mine} />
            <Button tone="main" big onClick={() => settle("mine")}>
              Keep mine
            </Button>
            <Button big onClick={() => settle("theirs")}>
              Take theirs
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Side({ title, plan, other }: { title: string; plan: Plan; other: Plan }) {
  const same = new Map([...other.points, ...other.runs].map((x) => [x.id, JSON.stringify(x)]));
  const changed = [
    ...plan.points.map((p) => [p.id, p.name || p.id, p] as const),
    ...plan.runs.map((r) => [r.id, `run ${r.id}`, r] as const),
  ].filter(([id, , x]) => same.get(id) !== JSON.stringify(x));
  return (
    <section className="border border-line p-3">
      <h3 className="font-bold">{title}</h3>
      <p>
        {plan.points.length} points, {plan.runs.length} runs
      </p>
      <p className="text-[14px] text-muted">
        {changed.length
          ? `differs at ${changed
              .slice(0, 6)
              .map(([, name]) => name)
              .join(", ")}${changed.length > 6 ? " …" : ""}`
          : "differs in conditions only"}
      </p>
    </section>
  );
}
