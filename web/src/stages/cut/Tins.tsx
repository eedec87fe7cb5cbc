import { useState } from "react";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Button, Heading, Pick } from "../../ui/parts";
import { Problems } from "../Problems";

/** Cement gels with age: date the tins, and be told when one is old. */
export function Tins() {
  const { derived, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [what, setWhat] = useState<"cement" | "primer">("cement");
  const [dated, setDated] = useState("");
  return (
    <section aria-label="Tins">
      <Heading note="old cement gels">Tins and their dates</Heading>
      <Problems problems={derived.tins} />
      <form
        className="grid grid-cols-[1fr_1fr_auto] items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (dated) edit((p) => ({ ...p, tins: [...p.tins, { what, dated }] }));
        }}
      >
        <Pick
          label="Tin of"
          options={[
            ["cement", "cement"],
            ["primer", "primer"],
          ]}
          value={what}
          onPick={(v) => setWhat(v as "cement" | "primer")}
        />
        <label className="flex flex-col text-[0.8125rem] text-muted">
          Made or opened
          <input
            type="month"
            value={dated}
            className="min-h-[38px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
            onChange={(e) => setDated(e.target.value)}
          />
        </label>
        <Button type="submit" disabled={!dated}>
          Date it
        </Button>
      </form>
      {plan.tins.map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tins keep their order
        <p key={i} className="flex items-center gap-2">
          {t.what}, {t.dated}
          <Button tone="quiet" onClick={() => edit((p) => ({ ...p, tins: p.tins.filter((_, n) => n !== i) }))}>
            Take out
          </Button>
        </p>
      ))}
    </section>
  );
}
