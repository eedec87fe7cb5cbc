import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { KindView } from "../../api/types";
import { GRIDS } from "../../drawing/geometry";
import { PointGlyph } from "../../drawing/glyphs";
import { useSnap, useTools } from "../../drawing/toolStore";
import type { SetDown } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { isSource, kindOf } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Button, Check, Pick } from "../../ui/parts";
import { useSmall } from "../../ui/useSmall";

const groups = [
  ["source", "Sources"],
  ["outlet", "Outlets"],
  ["device", "Valves and equipment"],
  ["line", "Line"],
  ["end", "Line ends"],
  ["body", "Ponds and tanks"],
  ["drain", "Drain"],
  ["mark", "Site marks"],
] as const;

type SetDownAs = { down: SetDown; kind: KindView; title: string };

/** The tools of the drawing: move, draw pipe, or a kind of point to set down; snapping; undo and redo. */
export function Tools() {
  const reference = useReference();
  const { tool, take, measure, snap, setSnap, group, setGroup, carried } = useTools();
  const { system } = useFormat();
  const { undo, redo, history } = useJob();
  const { plan } = useReadyJob();
  const small = useSmall();
  const snapping = useSnap(plan);
  const book = useQuery({ queryKey: ["book"], queryFn: api.book });
  const own = book.data?.things ?? [];
  const assemblies = book.data?.assemblies ?? [];
  const begun = reference.beginnings.find((b) => b.about === plan.about);
  const chosen = group === "begun" && !begun ? null : group;
  const shown = chosen ?? (begun ? "begun" : plan.points.some((p) => isSource(reference, p)) ? "outlet" : "source");
  const [words, setWords] = useState("");
  const wanted = words.trim().toLowerCase();
  const everything: SetDownAs[] = [
    ...reference.kinds.map((kind) => ({ down: kind.kind, kind, title: kind.title })),
    ...own.flatMap((down) => {
      const kind = kindOf(reference, down.what);
      return kind ? [{ down, kind, title: down.name }] : [];
    }),
  ];
  const offered = everything.filter((thing) =>
    wanted
      ? thing.title.toLowerCase().includes(wanted) ||
        (typeof thing.down === "string" && thing.kind.also.some((other) => other.includes(wanted)))
      : typeof thing.down === "string"
        ? shown === "begun"
          ? begun?.things.includes(thing.down)
          : thing.kind.role === shown
        : shown === "book",
  );
  const parts = [...assemblies, ...(carried ? [carried] : [])].filter((part) =>
    wanted ? part.name.toLowerCase().includes(wanted) : part === carried || shown === "book",
  );
  return (
    <section aria-label="Drawing tools" className="border-b border-line pb-2">
      <div className="flex flex-wrap gap-1.5">
        <Button
          aria-pressed={tool.kind === "select"}
          tone={tool.kind === "select" ? "main" : "plain"}
          onClick={() => take({ kind: "select" })}
        >
          Move
        </Button>
        <Button
          aria-pressed={tool.kind === "pipe"}
          tone={tool.kind === "pipe" ? "main" : "plain"}
          onClick={() => take({ kind: "pipe", from: null })}
        >
          Draw pipe
        </Button>
        <Button
          aria-pressed={tool.kind === "frame"}
          tone={tool.kind === "frame" ? "main" : "plain"}
          disabled={!plan.points.length}
          onClick={() => take({ kind: "frame" })}
        >
          Choose several
        </Button>
        <input
          type="search"
          aria-label="Find a thing to set down"
          placeholder="Find"
          value={words}
          className="min-h-[36px] min-w-20 flex-1 basis-20 rounded-[4px] border border-edge bg-panel px-2 text-[0.875rem] pointer-coarse:min-h-[44px]"
          onChange={(e) => setWords(e.target.value)}
        />
        {small && tool.kind !== "frame" && <Button onClick={() => measure(true)}>Draw by measure</Button>}
        {!small && (
          <>
            <Button disabled={!history.done.length} onClick={undo}>
              Undo
            </Button>
            <Button disabled={!history.undone.length} onClick={redo}>
              Redo
            </Button>
          </>
        )}
      </div>
      {tool.kind !== "frame" && (
        <>
          <div
            className="mt-2 flex gap-x-3 border-b border-line max-md:overflow-x-auto max-md:*:shrink-0 md:flex-wrap"
            role="group"
            aria-label="What to set down"
          >
            {[
              ...(begun ? [["begun", "Suggested"] as const] : []),
              ...groups,
              ...(own.length || assemblies.length ? [["book", "Crew parts"] as const] : []),
            ].map(([role, title]) => (
              <button
                key={role}
                type="button"
                aria-pressed={role === shown && !wanted}
                className="min-h-[34px] border-b-4 border-transparent text-[0.875rem] aria-pressed:border-water aria-pressed:font-semibold pointer-coarse:min-h-[44px]"
                onClick={() => {
                  setGroup(role);
                  setWords("");
                }}
              >
                {title}
              </button>
            ))}
          </div>
          {wanted && !offered.length && !parts.length && (
            <p className="mt-1 text-muted">Nothing to set down is called that.</p>
          )}
          <div className="mt-1.5 flex gap-1 max-md:overflow-x-auto max-md:*:shrink-0 md:flex-wrap">
            {offered.map(({ down, kind, title }) => {
              const on = tool.kind === "place" && tool.what === down;
              return (
                <button
                  key={`${kind.kind} ${title}`}
                  type="button"
                  aria-pressed={on}
                  className={`flex min-h-[34px] items-center gap-1 rounded-[4px] border px-1.5 text-[0.8125rem] pointer-coarse:min-h-[44px] ${on ? "border-water bg-water-soft" : "border-line bg-panel"}`}
                  onClick={() => take(on ? { kind: "select" } : { kind: "place", what: down })}
                >
                  <svg width="22" height="22" viewBox="-17 -17 34 34" aria-hidden="true">
                    <PointGlyph kind={kind.kind} letter={kind.letter} />
                  </svg>
                  {title}
                </button>
              );
            })}
            {parts.map((part) => (
              <Button
                key={part.name}
                aria-pressed={tool.kind === "part" && tool.part === part}
                tone={tool.kind === "part" && tool.part === part ? "main" : "plain"}
                onClick={() => take({ kind: "part", part })}
              >
                {part.name}: {part.points.length} {part.points.length === 1 ? "thing" : "things"}
              </Button>
            ))}
          </div>
          <div className="mt-2 flex flex-wrap items-center gap-x-4">
            <Check
              label="45° from the last point"
              checked={snap.angle}
              onChange={(e) => setSnap({ angle: e.target.checked })}
            />
            <Check
              label="in line and square"
              checked={snap.line}
              onChange={(e) => setSnap({ line: e.target.checked })}
            />
            <Pick
              label="Snap to grid"
              className="w-36"
              options={[["0", "no grid"], ...GRIDS[system].map(([step, name]) => [String(step), name] as const)]}
              value={String(snapping.grid ?? 0)}
              onPick={(v) => setSnap({ grid: Number(v) || null })}
            />
          </div>
        </>
      )}
      <p className="mt-1 text-[0.8125rem] text-muted" role="status">
        {tool.kind === "pipe" &&
          (tool.from ? "Click where the pipe goes on to; Esc ends it." : "Click where the pipe starts.")}
        {tool.kind === "place" && "Click where it stands; on a pipe it goes into the line."}
        {tool.kind === "part" && "Click where it goes; on the end of a line it goes on from there."}
        {tool.kind === "frame" && "Drag a frame round what is meant, or press one after another; Esc lets go."}
        {tool.kind === "select" && "Click to choose, drag to move. Keys: ?"}
      </p>
    </section>
  );
}
