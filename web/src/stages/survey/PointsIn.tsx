import { useRef, useState } from "react";
import { api, Refused } from "../../api/client";
import { type ForeignFile, foreignFile } from "../../api/foreignFile";
import type { Plan, Points, ProblemDocument, Reference } from "../../api/types";
import { addPoint, changePoint } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { kindOf } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Box, Button, Pick } from "../../ui/parts";
import { Words } from "../../ui/Typed";
import { ColumnsRead } from "./ColumnsRead";

const FEW = 8;
const COLUMNS = [
  ["name", "name"],
  ["east", "east"],
  ["north", "north"],
  ["level", "level"],
  ["latitude", "latitude"],
  ["longitude", "longitude"],
] as const;
const sentence = (words: string) => `${words.charAt(0).toUpperCase()}${words.slice(1)}.`;

/** Points that somebody measured, from a file: said back first, and set down as one kind of thing only when a person says so. */
export function PointsIn() {
  const reference = useReference();
  const { plan } = useReadyJob();
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const file = useRef<HTMLInputElement>(null);
  const [found, setFound] = useState<Points | null>(null);
  const [kind, setKind] = useState("mark");
  const [problem, setProblem] = useState<ProblemDocument | null>(null);
  const held = useRef<ForeignFile | null>(null);
  const given = async (chosen: File | undefined) => {
    if (!chosen) return;
    held.current = await foreignFile(chosen);
    await look([]);
  };
  const look = async (use: string[], grid = "") => {
    if (!held.current) return;
    try {
      setFound(await api.readPoints(held.current, plan.units, use, plan.tie, grid));
      setProblem(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      if (!grid) setFound(null); // else it is asked again beside what was wrong
      setProblem(error.problem);
    }
  };
  return (
    <details className="mt-1 border-b border-line pb-2">
      <summary className="min-h-[32px] cursor-pointer font-semibold pointer-coarse:min-h-[44px]">
        Points from a file
      </summary>
      <p className="text-[0.875rem] text-muted">
        A table with name, east, north and level, as a survey program, a spreadsheet or a phone saves it, or GeoJSON. It
        is shown, column by column, before anything is drawn.
      </p>
      <Button className="mt-1" onClick={() => file.current?.click()}>
        Choose a file
      </Button>
      <input
        ref={file}
        type="file"
        accept=".csv,.txt,.tsv,.xlsx,.json,.geojson,text/csv,text/plain,application/geo+json"
        className="hidden"
        aria-label="Points file"
        onChange={(e) => {
          void given(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      {problem && <Said problem={problem} />}
      {found && (
        <Box tone="water" className="mt-2">
          <p className="font-bold">
            {found.asks_grid
              ? "Which coordinate system is it in?"
              : found.asks
                ? "Say which column is what."
                : found.says}
          </p>
          {found.asks && <p>{sentence(found.asks)}</p>}
          {found.asks_grid && <GridAsked onGrid={(grid) => look([], grid)} />}
          {found.columns.length > 0 && <ColumnsRead columns={found.columns} choices={COLUMNS} onUse={look} />}
          <ul className="text-[0.875rem]">
            {found.points.slice(0, FEW).map((p) => (
              <li key={`${p.name} ${p.x} ${p.y}`}>
                {p.name}: {format(p.x, "length")} east, {format(p.y, "length")} north
                {p.level !== null && p.level !== undefined && `, level ${format(p.level, "level")}`}
              </li>
            ))}
            {found.points.length > FEW && <li>and {found.points.length - FEW} more</li>}
          </ul>
          <div className="mt-2 flex flex-wrap items-end gap-2">
            <Pick
              label="Set them down as"
              options={reference.kinds.map((k) => [k.kind, k.title] as const)}
              value={kind}
              onPick={setKind}
            />
            <Button
              tone="main"
              disabled={!found.points.length}
              onClick={() => {
                edit((p) => ({ ...set(p, reference, kind, found), tie: found.tie ?? p.tie }));
                setFound(null);
              }}
            >
              Set down all {found.points.length}
            </Button>
            <Button onClick={() => setFound(null)}>Leave it</Button>
          </div>
        </Box>
      )}
    </details>
  );
}

/** The coordinate system that large figures are of, or that it does not matter. */
function GridAsked({ onGrid }: { onGrid: (grid: string) => Promise<void> }) {
  const [grid, setGrid] = useState("");
  return (
    <div className="mt-1 flex flex-wrap items-end gap-2">
      <Words
        label="Coordinate system"
        hint="EPSG:25832 or UTM 32N"
        className="min-w-44 flex-1"
        value={grid}
        onValue={setGrid}
        live
      />
      <Button tone="main" disabled={!grid.trim()} onClick={() => void onGrid(grid)}>
        Use it
      </Button>
      <Button onClick={() => void onGrid("as they are")}>As they are</Button>
    </div>
  );
}

/** A plan with all of them, each by its own name and, where it was measured, at its level. */
const set = (plan: Plan, reference: Reference, kind: string, found: Points): Plan =>
  found.points.reduce((so, p) => {
    const [next, point] = addPoint(so, reference, kind, { x: p.x, y: p.y });
    const level = p.level ?? null;
    return changePoint(next, point.id, {
      x: p.x,
      y: p.y,
      name: p.name,
      ...(level === null
        ? {}
        : { ground: level, ...(kindOf(reference, point.what)?.role === "mark" ? { depth: 0 } : {}) }),
    });
  }, plan);
