import { useState } from "react";
import type { FaultFinding } from "../../api/types";
import { useReadyJob, useSay } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { isPiped, namesOf } from "../../job/kinds";
import { Mended } from "../../job/Mended";
import { newEvent } from "../../job/newEvent";
import { useReference } from "../../ui/context";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button, Pick } from "../../ui/parts";
import { Withdraw } from "../Withdraw";
import { withoutInstrument } from "./faultWords";

type SignsProps = { finding: FaultFinding; name: (id: string) => string; again: () => Promise<void> };

/** What is seen without an instrument, said in a few presses: which sign, and where. What is chosen on the drawing is the place. */
export function Signs({ finding, name, again }: SignsProps) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const selected = useJob((s) => s.selected);
  const { say, fault } = useSay();
  const [sign, setSign] = useState("");
  const [where, setWhere] = useState("");
  const offered = finding.offered.find((s) => s.id === sign);
  const named = namesOf(reference, plan);
  const points = plan.points.filter((p) => isPiped(reference, p));
  const running = finding.found.readings.map((r) => r.point);
  const spots = (
    offered?.at === "outlet"
      ? points.filter((p) => reference.kinds.find((k) => k.kind === p.what.kind)?.role === "outlet")
      : points
  ).map((p) => [p.id, named.get(p.id) ?? ""] as const);
  const runs = offered?.at === "place" ? plan.runs.map((r) => [r.id, name(r.id)] as const) : [];
  const choices = [...spots, ...runs];
  const usual = choices.some(([id]) => id === selected) ? (selected ?? "") : (choices[0]?.[0] ?? "");
  const at = offered?.at === "line" ? "line" : choices.some(([id]) => id === where) ? where : usual;
  const enter = async () => {
    const ok = await say([
      newEvent("observed", {
        of: at,
        seen: { ...withoutInstrument, what: "sign", word: sign, scenario: finding.scenario },
      }),
    ]);
    if (ok) {
      setSign("");
      await again();
    }
  };
  return (
    <section aria-label="What is seen">
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Pick
          label="What do you see?"
          className={offered && offered.at !== "line" ? "" : "col-span-2"}
          options={[["", "Choose what is seen …"], ...finding.offered.map((s) => [s.id, s.title] as const)]}
          value={sign}
          onPick={setSign}
        />
        {offered && offered.at !== "line" && <Pick label="Where" options={choices} value={at} onPick={setWhere} />}
      </div>
      {offered && (
        <Button className="mt-2" tone="main" disabled={!at} onClick={() => void enter()}>
          Enter what is seen
        </Button>
      )}
      {fault && <Said problem={fault} />}
      {finding.signs.length > 0 && (
        <ul className="mt-2">
          {finding.signs.map((s) => (
            <li key={s.event} className="flex flex-wrap gap-x-3 border-b border-line py-1">
              <span>
                {s.says}
                {s.where !== "line" && `: ${name(s.where)}`}
              </span>
              <Withdraw event={s.event} what="this" onDone={() => void again()} />
            </li>
          ))}
        </ul>
      )}
      {running.length === 0 && finding.signs.length === 0 && (
        <p className="text-[0.875rem] text-muted">A place that is chosen on the drawing is offered first.</p>
      )}
    </section>
  );
}

/** What was found here before, and who found it: what was read and seen until then counts no more. */
export function Closed({ finding, name, again }: SignsProps) {
  if (!finding.closed.length) return null;
  return (
    <Box tone="proved">
      {finding.closed.map((f) => (
        <div key={f.event}>
          {f.kind ? (
            <>
              <b>{finding.words[f.kind]?.title ?? f.kind}</b>, found at {name(f.where)}
            </>
          ) : (
            <b>At {name(f.where)}</b>
          )}
          : {f.by}, {clockTime(f.at)}.{" "}
          {f.mended ? `Mended by ${f.mended_by}: ${f.mended}. ` : `${finding.words[f.kind]?.fix ?? ""} `}
          <span className="inline-flex flex-wrap gap-x-4">
            {!f.mended && (
              <Mended of={f.event} opened={finding.words[f.kind]?.opens ?? true} onDone={() => void again()} />
            )}
            <Withdraw event={f.event} what="this find" onDone={() => void again()} />
          </span>
        </div>
      ))}
      {finding.over > 0 && <p>{finding.over} earlier readings and signs count no more.</p>}
    </Box>
  );
}
