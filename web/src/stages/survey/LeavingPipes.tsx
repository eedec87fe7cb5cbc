import { api } from "../../api/client";
import type { Leaving } from "../../api/types";
import { useAsked } from "../../job/asked";
import { changeLeaving } from "../../job/changeover";
import { removeRun } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, isOutlet, nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Button, Fold, Pick } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";

/** Pipe that is in use until a changeover is over: the old service, and the temporary loop. */
export function LeavingPipes() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const { says, ask } = useAsked();
  if (!plan.leaving.length) return null;
  const taps = plan.points.filter((p) => isOutlet(reference, p) && !has(reference, p, "waters"));
  const hung = new Set(plan.leaving.filter((x) => x.what === "loop").map((x) => x.a.point));
  const free = taps.filter((p) => !hung.has(p.id));
  return (
    <Fold title="Changeover" note="old pipe and temporary loop" folded={false}>
      <ul>
        {plan.leaving.map((x) => (
          <li key={x.id} className="border-b border-line py-2">
            <LeavingForm leaving={x} />
          </li>
        ))}
      </ul>
      {free.length > 0 && (
        <Pick
          label="Keep the house in water: hang a temporary loop on"
          options={[["", "choose a tap"], ...free.map((p) => [p.id, nameOf(reference, p)] as const)]}
          value=""
          onPick={(tap) => tap && void ask((before) => api.group("loop", { chosen: [tap] }, before))}
        />
      )}
      {says && <p role="status">{says}</p>}
      <p className="mt-1 text-[0.875rem] text-muted">The order of the steps is worked out in Make.</p>
    </Fold>
  );
}

function LeavingForm({ leaving }: { leaving: Leaving }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const set = (change: Partial<Leaving>) => edit((p) => changeLeaving(p, leaving.id, change));
  const at = (id: string | undefined) => {
    const point = plan.points.find((p) => p.id === id);
    return point ? nameOf(reference, point) : "another supply";
  };
  const old = leaving.what === "old";
  const kinds = old ? ["pressure", "met"] : ["pressure"];
  const series = reference.series.find((s) => s.id === leaving.series);
  return (
    <>
      <p className="font-semibold">
        {old
          ? `Old pipe, ${at(leaving.a.point)} to ${at(leaving.b?.point)}`
          : `Temporary loop at ${at(leaving.a.point)}, from ${at(leaving.b?.point)}`}
      </p>
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        <Pick
          label="Pipe"
          className="col-span-2"
          options={[
            ["", "not said"],
            ...reference.series.filter((s) => kinds.includes(s.kind)).map((s) => [s.id, s.name] as const),
          ]}
          value={leaving.series ?? ""}
          onPick={(v) => set({ series: v || null, size: null })}
        />
        <Pick
          label="Size"
          options={[["", "not said"], ...(series?.sizes.map((s) => [s.size, s.size] as const) ?? [])]}
          value={leaving.size ?? ""}
          onPick={(v) => set({ size: v || null })}
        />
        <Typed
          label="Length"
          quantity="length"
          value={leaving.length}
          hint="not said"
          low={0.1}
          onValue={(length) => set({ length })}
          onClear={() => set({ length: null })}
        />
        {!leaving.b && (
          <Typed
            label="Its pressure at rest"
            quantity="pressure"
            value={leaving.pressure}
            low={0}
            onValue={(pressure) => set({ pressure })}
          />
        )}
        <Words
          label={old ? "What is known of it" : "What supplies it"}
          value={leaving.note ?? ""}
          onValue={(note) => set({ note })}
        />
      </div>
      <Button className="mt-2" tone="quiet" onClick={() => edit((p) => removeRun(p, leaving.id))}>
        {old ? "It is not there" : "Do without this loop"}
      </Button>
    </>
  );
}
