import { useEffect, useId, useState } from "react";
import { api, Refused } from "../api/client";
import { askOfPresent } from "../job/asked";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { kindOf, nameOf } from "../job/kinds";
import { useReference } from "../ui/context";
import { Button } from "../ui/parts";
import { useTools } from "./toolStore";
import { useLook } from "./viewStore";

type Reading = { kind: "nothing" } | { kind: "reads"; says: string } | { kind: "not"; says: string };

const PAD = [
  ["north", "N"],
  ["east", "E"],
  ["south", "S"],
  ["west", "W"],
  ["up", "up"],
  ["down", "down"],
] as const;
const PAUSE = 250; // ms after the last key before what was typed is read back

/** A line of measures from the point that is chosen: typed or spoken, read back, and drawn. */
export function MeasureBar({ inSheet = false }: { inSheet?: boolean }) {
  const { plan } = useReadyJob();
  const reference = useReference();
  const selected = useJob((s) => s.selected);
  const select = useJob((s) => s.select);
  const { tool, take, measuring: open, measure: setOpen } = useTools();
  const start = (tool.kind === "pipe" ? tool.from : null) ?? selected;
  const from = plan.points.find((p) => p.id === start);
  const [text, setText] = useState("");
  const [read, setRead] = useState<Reading>({ kind: "nothing" });
  const id = useId();

  useEffect(() => {
    if (!text.trim()) {
      setRead({ kind: "nothing" });
      return;
    }
    let late = false;
    const timer = setTimeout(async () => {
      const told = await readBack(text, plan.units);
      if (!late) setRead(told);
    }, PAUSE);
    return () => {
      late = true;
      clearTimeout(timer);
    };
  }, [text, plan.units]);

  const draw = async () => {
    try {
      const drawn = await askOfPresent((now) => api.drawMeasures(text, now, from?.id ?? ""));
      if (!drawn) return;
      select(drawn.end);
      useLook.getState().place();
      take({ kind: "select" }); // what was in hand before would be set down at the next press
      setText("");
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setRead({ kind: "not", says: error.problem.detail });
    }
  };
  const press = (word: string) => setText((t) => `${t.trimEnd()} ${word}`.trimStart());
  if (!open)
    return (
      <Button className="absolute bottom-2 left-1/2 -translate-x-1/2" onClick={() => setOpen(true)}>
        Draw by measure
      </Button>
    );
  return (
    <form
      aria-label="Draw by measure"
      className={`flex flex-wrap items-start gap-2 ${inSheet ? "" : "border border-t-0 border-line bg-paper p-2"}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (text.trim()) void draw();
      }}
    >
      <div className="min-w-0 flex-1 basis-52">
        <label htmlFor={id} className="text-[0.8125rem] text-muted">
          {from ? `From ${nameOf(reference, from)}, by measure` : "The line by measure"}
        </label>
        <input
          id={id}
          value={text}
          autoComplete="off"
          placeholder={`${from ? "" : plan.points.length ? "at Tap 1: " : "mains, "}${plan.units === "us" ? "4 ft 6 e, 3 up, tee" : "1.24 e, 3 up, tee"}`}
          className="min-h-[40px] w-full border-2 border-water bg-panel px-2 text-[1rem] pointer-coarse:min-h-[48px]"
          onChange={(e) => setText(e.target.value)}
        />
        <p
          className={`mt-1.5 min-h-[1.4em] text-[0.8125rem] ${read.kind === "not" ? "text-fault" : "text-muted"}`}
          role="status"
        >
          {read.kind === "nothing"
            ? from && kindOf(reference, from.what)?.role === "mark"
              ? "how far from it, then what stands there: 3.2 e, 1.1 n, tap; no pipe goes to it"
              : !from
                ? plan.points.length
                  ? "choose a point to go on from, or say which: at Tap 1: 3 n, valve"
                  : "what the line begins at, then a length and a way, and so on: mains, 12 e, valve, 6 n, tap"
                : "a length and a way, then the next; or a thing: tee, valve; six heads every 12 e; to Tap 1; at tee 1: 3 n; 2 pipe"
            : ""}
          {read.kind === "reads" ? `reads: ${read.says}` : ""}
          {read.kind === "not" ? read.says : ""}
        </p>
      </div>
      <fieldset aria-label="Ways" className="grid grid-cols-3 gap-1">
        {PAD.map(([word, short]) => (
          <Button key={word} aria-label={word} className="min-w-11 justify-center" onClick={() => press(word)}>
            {short}
          </Button>
        ))}
      </fieldset>
      <div className="flex gap-1">
        <Button onClick={() => press(",")} aria-label="next part">
          ,
        </Button>
        <Button type="submit" tone="main" disabled={read.kind !== "reads"}>
          Draw it
        </Button>
        <Button tone="quiet" onClick={() => setOpen(false)}>
          Close
        </Button>
      </div>
    </form>
  );
}

async function readBack(text: string, units: "us" | "metric"): Promise<Reading> {
  try {
    return { kind: "reads", says: (await api.readMeasures(text, units)).says };
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    return { kind: "not", says: error.problem.detail };
  }
}
