import { useRef, useState } from "react";
import { api, Refused } from "../../api/client";
import type { Plan, Points, ProblemDocument, Reference } from "../../api/types";
import { addPoint, changePoint } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { kindOf } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Box, Button, Pick } from "../../ui/parts";

const FEW = 8;

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
  const given = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      setFound(await api.readPoints(await chosen.text(), plan.units));
      setProblem(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFound(null);
      setProblem(error.problem);
    }
  };
  return (
    <details className="mt-1 border-b border-line pb-2">
      <summary className="min-h-[32px] cursor-pointer font-semibold pointer-coarse:min-h-[44px]">
        Points from a file
      </summary>
      <p className="text-[14px] text-muted">
        CSV with name, east, north and level (heads may end in _m or _ft), or GeoJSON. It is said back before anything
        is drawn.
      </p>
      <Button className="mt-1" onClick={() => file.current?.click()}>
        Choose a file
      </Button>
      <input
        ref={file}
        type="file"
        accept=".csv,.json,.geojson,text/csv,application/geo+json"
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
          <p className="font-bold">{found.says}</p>
          <ul className="text-[14px]">
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
              onClick={() => {
                edit((p) => set(p, reference, kind, found));
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
