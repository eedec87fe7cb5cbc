import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useId, useState } from "react";
import { useLocation } from "wouter";
import { api } from "../api/client";
import type { Stage } from "../api/types";
import { questions } from "../bench/questions";
import { stages } from "../drawing/dress";
import { useTools } from "../drawing/toolStore";
import { useLook } from "../drawing/viewStore";
import { askedAt, bench } from "../job/benchPlace";
import { useProblems, useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { nameOf } from "../job/kinds";
import { useReference } from "../ui/context";
import { DialogFrame } from "../ui/DialogFrame";
import { Button } from "../ui/parts";
import { type Findable, found } from "./findable";
import { stageTitle } from "./StageBar";

const STAGE_WORDS: Record<Stage, readonly string[]> = {
  survey: ["draw", "points", "levels"],
  size: ["flow", "pressure", "zones", "watering"],
  join: ["parts list", "fittings", "bill of materials"],
  cut: ["cut list", "sticks", "saw", "prices"],
  make: ["joints", "steps", "timer", "cure"],
  prove: ["prove", "pressure test", "flush", "leak walk", "bury"],
  keep: ["keep", "hand over", "as laid", "export", "revisions"],
};

/** Everything of a job by name: what can be done, set down, looked at, opened or asked. */
export function FindAnything({ onClose, onKeys }: { onClose: () => void; onKeys: () => void }) {
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const [, go] = useLocation();
  const { job, plan } = useReadyJob();
  const things = useThings(onKeys);
  const list = useId();
  const meant = found(things, words);
  const chosen = meant[Math.min(at, meant.length - 1)];
  const doIt = (thing: Findable) => {
    onClose();
    thing.act();
  };
  const ask = () => {
    onClose();
    bench.openedFrom(job.id, plan.units, plan.conditions?.market ?? "both");
    go(askedAt(words.trim()));
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <DialogFrame title="Find anything" width="max-w-[34rem]" close="Close">
        <input
          type="search"
          role="combobox"
          aria-label="What to find"
          aria-expanded={meant.length > 0}
          aria-controls={list}
          aria-activedescendant={chosen ? `${list}-${meant.indexOf(chosen)}` : undefined}
          placeholder="valve, cut list, Tap 1, undo …"
          autoComplete="off"
          value={words}
          className="min-h-[48px] w-full border-2 border-water bg-panel px-2 text-[1rem]"
          onChange={(e) => {
            setWords(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
            if (by) {
              e.preventDefault();
              setAt((n) => Math.max(0, Math.min(meant.length - 1, n + by)));
            } else if (e.key === "Enter") {
              e.preventDefault();
              if (chosen) doIt(chosen);
              else if (words.trim()) ask();
            }
          }}
        />
        <div id={list} role="listbox" aria-label="Found" className="mt-2">
          {meant.map((thing, n) => (
            <button
              key={`${thing.sort} ${thing.title}`}
              id={`${list}-${n}`}
              type="button"
              role="option"
              aria-selected={thing === chosen}
              className="flex min-h-[44px] w-full items-center gap-3 border-b border-line px-2 text-left hover:bg-paper aria-selected:bg-water-soft"
              onClick={() => doIt(thing)}
            >
              <span className="grow">{thing.title}</span>
              <span className="text-[0.8125rem] text-muted">{thing.sort}</span>
            </button>
          ))}
        </div>
        {words.trim() && !meant.length && (
          <p className="mt-2" role="status">
            Nothing here is called that.{" "}
            <Button className="mt-1" onClick={ask}>
              Ask the bench: {words.trim()}
            </Button>
          </p>
        )}
      </DialogFrame>
    </Dialog.Root>
  );
}

function useThings(onKeys: () => void): Findable[] {
  const { job, plan } = useReadyJob();
  const reference = useReference();
  const [, go] = useLocation();
  const { undo, redo, select } = useJob();
  const { take, measure } = useTools();
  const look = useLook((s) => s.look);
  const problems = useProblems();
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs });
  const page = (stage: string) => `/job/${job.id}/${stage}`;
  const drawing = (act: () => void) => () => {
    go(page("survey"));
    act();
  };
  const act = (title: string, also: readonly string[], doIt: () => void): Findable => ({
    title,
    sort: "action",
    also,
    act: doIt,
  });
  return [
    ...stages.map((s) => ({ title: stageTitle(s), sort: "stage", also: STAGE_WORDS[s], act: () => go(page(s)) })),
    act(
      "Draw by measure",
      ["line in words", "type a line"],
      drawing(() => measure(true)),
    ),
    act(
      "Draw pipe",
      ["line", "run"],
      drawing(() => take({ kind: "pipe", from: null })),
    ),
    act(
      "Move and choose",
      ["select"],
      drawing(() => take({ kind: "select" })),
    ),
    act(
      "Choose several",
      ["group", "frame", "copy", "repeat", "mirror"],
      drawing(() => take({ kind: "frame" })),
    ),
    act("Undo", ["take back"], undo),
    act("Redo", ["again"], redo),
    act("Look from above", ["plan view"], () => look({ kind: "above" })),
    act("Shopping list", ["shop", "buy", "basket", "lay out"], () => go(page("shop"))),
    act("Keys", ["keyboard", "help"], onKeys),
    ...problems
      .filter((p) => !p.follows)
      .map((p) => ({
        title: p.says,
        sort: "problem",
        also: ["problem", p.severity],
        act: () => select(p.where || null),
      })),
    ...reference.kinds.map((k) => ({
      title: k.title,
      sort: "set down",
      also: k.also,
      act: drawing(() => take({ kind: "place", what: k.kind })),
    })),
    ...plan.points.map((p) => ({
      title: nameOf(reference, p),
      sort: "on the drawing",
      also: [],
      act: () => select(p.id),
    })),
    ...questions.map(([where, title]) => ({
      title,
      sort: "bench",
      also: [where],
      act: () => {
        bench.openedFrom(job.id, plan.units, plan.conditions?.market ?? "both");
        go(`/bench/${where}`);
      },
    })),
    ...(jobs.data ?? []).map((j) => ({ title: j.name, sort: "job", also: [], act: () => go(`/job/${j.id}/survey`) })),
  ];
}
