import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { Zoned } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { has, nameOf } from "../../job/kinds";
import { changeZone, removeZone, setZones } from "../../job/zones";
import { useFormat, useReference } from "../../ui/context";
import { Button, Fold, Pick } from "../../ui/parts";
import { Words } from "../../ui/Typed";

/** What the controller opens, one after another: proposed, taken, named. What is open at once by hand is a scenario's matter. */
export function Zones() {
  const { plan, derived } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const format = useFormat();
  const reference = useReference();
  const [most, setMost] = useState("");
  const [found, setFound] = useState<Zoned | null>(null);
  const [says, setSays] = useState("");
  const here = new Set(plan.points.map((p) => p.id));
  const ask = async () => {
    try {
      setFound(await api.zonesOf(plan, most));
      setSays("");
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFound(null);
      setSays(error.problem.detail);
    }
  };
  return (
    <Fold title="Zones of the controller" note={`${plan.zones.length}`} folded={!plan.zones.length}>
      <p className="text-[0.8125rem] text-muted">
        What one valve opens. Each is worked out by itself; choose several things on the drawing to put them into one.
      </p>
      <ol>
        {plan.zones.map((z, n) => {
          const flow = derived.sizes.flows[z.id];
          const drawn = Object.values(flow?.outlets ?? {}).reduce((sum, o) => sum + o.flow, 0);
          const heads = (z.heads ?? []).filter((h) => here.has(h)).length;
          return (
            <li key={z.id} className="flex flex-wrap items-end gap-2 border-b border-line py-1">
              <span className="w-6 pb-2 text-right text-muted">{n + 1}</span>
              <Words
                label={`${heads} ${heads === 1 ? "outlet" : "outlets"}${flow ? `, ${format(drawn, "flow")}` : ""}`}
                value={z.name}
                onValue={(name) => name.trim() && edit((p) => changeZone(p, z.id, { name: name.trim() }))}
                className="grow"
              />
              <Pick
                label="opened by"
                className="w-40"
                options={[
                  ["", "no valve yet"],
                  ...plan.points
                    .filter((p) => has(reference, p, "opens-zone"))
                    .map((p) => [p.id, nameOf(reference, p)] as const),
                ]}
                value={here.has(z.valve ?? "") ? (z.valve ?? "") : ""}
                onPick={(valve) => edit((p) => changeZone(p, z.id, { valve }))}
              />
              <Button aria-label={`Take out ${z.name}`} onClick={() => edit((p) => removeZone(p, z.id))}>
                Take out
              </Button>
            </li>
          );
        })}
      </ol>
      {derived.wire && <p className="mt-2">{derived.wire.says}</p>}
      {plan.zones.length > 0 && !derived.wire && (
        <p className="mt-2 text-[0.8125rem] text-muted">
          Set a mark down where the controller hangs, and its wire is calculated: how long, how thick, what voltage is
          left.
        </p>
      )}
      <form
        className="mt-2 flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void ask();
        }}
      >
        <Words
          label="Water there is for one zone"
          value={most}
          hint="what the source gives"
          onValue={setMost}
          live
          className="grow"
        />
        <Button type="submit">Propose zones</Button>
      </form>
      {says && (
        <p role="alert" className="mt-2 text-fault">
          {says}
        </p>
      )}
      {found && (
        <div role="status" className="mt-2">
          <p className="text-[0.8125rem] text-muted">With {found.most} for each zone:</p>
          {found.offers.map((o) => (
            <section key={o.title} aria-label={o.title} className="border-b border-line py-2">
              <p className="font-semibold">{o.title}</p>
              <p>{o.grouping.says}</p>
              {o.title !== "As they are now" && (
                <Button
                  onClick={() => {
                    edit((p) => setZones(p, o.zones));
                    setFound(null);
                  }}
                >
                  Take these
                </Button>
              )}
            </section>
          ))}
        </div>
      )}
    </Fold>
  );
}
