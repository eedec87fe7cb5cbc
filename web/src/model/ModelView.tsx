import { Canvas } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import { api } from "../api/client";
import type { Stage } from "../api/types";
import { useReadyJob, useSaved, useStands } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useFormat } from "../ui/context";
import { Loading } from "../ui/Messages";
import { Box, Button } from "../ui/parts";
import { Cameras } from "./Cameras";
import { Controls } from "./Controls";
import { LabelLayer, LabelPlacer, useLabels } from "./Labels";
import { useModel } from "./modelStore";
import { Playback } from "./Playback";
import { readModel } from "./readModel";
import { Solids } from "./Solids";
import { StageMarks } from "./StageMarks";

/** Whether this browser can draw in three dimensions at all. */
function canDraw(): boolean {
  try {
    return document.createElement("canvas").getContext("webgl2") !== null;
  } catch {
    return false;
  }
}

async function fetched(job: string) {
  const answer = await fetch(`/api/jobs/${encodeURIComponent(job)}/model`);
  if (!answer.ok) throw new Error(`The server answered ${answer.status}.`);
  return readModel(await answer.arrayBuffer());
}

/** The line as solids, to walk round: in place of the drawing, beside the same sheets. */
export function ModelView({ stage, scenario }: { stage: Stage; scenario: string }) {
  const { job, plan, derived } = useReadyJob();
  const readiness = useStands()?.readiness ?? null;
  const saved = useSaved();
  const format = useFormat();
  const selected = useJob((s) => s.selected);
  const { show, picks, labelled } = useModel();
  const able = useMemo(canDraw, []);
  const model = useQuery({
    queryKey: ["model", job.id, job.revision],
    queryFn: () => fetched(job.id),
    enabled: able && saved,
    placeholderData: (before) => before,
  });
  useEffect(() => () => useModel.setState({ playing: false, step: null, picks: [] }), []);
  const found = model.data;
  const hidden = useQuery({
    queryKey: ["as-laid", job.id, job.revision, readiness?.now],
    queryFn: () => api.asLaid(job.id),
    enabled: able && saved && stage === "keep",
  });
  const laid = useMemo(
    () => (stage === "keep" ? (hidden.data?.joints ?? []).filter((j) => !j.since) : []),
    [stage, hidden.data],
  );
  const tints = useMemo(() => {
    const sections = stage === "prove" ? derived.sections : [];
    const tone = (id: string) => (readiness?.sections[id]?.proved ? "--color-proved" : "--color-dry");
    return new Map(sections.flatMap((s) => s.runs.map((r) => [r, tone(s.id)] as const)));
  }, [stage, derived.sections, readiness]);
  const labels = useLabels(found, stage, scenario, laid);
  const layer = useRef<HTMLDivElement>(null);
  const chosen =
    found && [...found.nodes.values()].find((n) => n.about === selected || n.joints.includes(selected ?? ""));
  const back = <Button onClick={() => show(false)}>Back to the drawing</Button>;
  if (!able)
    return (
      <Box tone="dry" className="m-4 mt-14" role="status">
        <p>
          <b>No model here.</b> This browser does not draw in three dimensions (WebGL is off). The drawing's Standing
          view shows the same line.
        </p>
        {back}
      </Box>
    );
  if (model.error && !found)
    return (
      <Box tone="dry" className="m-4 mt-14" role="alert">
        <p>The model could not be loaded. {model.error.message}</p>
        <Button onClick={() => void model.refetch()}>Retry</Button> {back}
      </Box>
    );
  if (!found) return <Loading />;
  if (!found.nodes.size)
    return (
      <Box tone="ink" className="m-4 mt-14" role="status">
        <p>Nothing to show yet: draw a run between two components.</p>
        {back}
      </Box>
    );
  const [a, b] = picks;
  return (
    <div className="absolute inset-0 flex flex-col" data-model={model.isPlaceholderData ? "older" : "ready"}>
      <div
        className="relative min-h-0 grow touch-none"
        role="application"
        aria-label={`Model of ${plan.name}: ${found.nodes.size} solids. Drag to turn, two fingers or right drag to move, wheel to zoom; the buttons do the same.`}
      >
        <Canvas
          orthographic
          frameloop="demand"
          gl={{ antialias: true, preserveDrawingBuffer: true, localClippingEnabled: true }}
          dpr={[1, 2]}
        >
          <Cameras model={found} />
          <Solids model={found} tints={tints} />
          <StageMarks model={found} stage={stage} laid={laid} />
          {labelled && <LabelPlacer labels={labels} layer={layer} />}
        </Canvas>
        {labelled && <LabelLayer labels={labels} layer={layer} />}
        <div className="pointer-events-none absolute bottom-2 left-3 max-w-[70%] text-[0.875rem]" role="status">
          {a && b && (
            <p className="inline-block bg-panel px-1 font-semibold">
              Between the two picks: {format(Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]), "cut")}
            </p>
          )}
          {a && !b && <p className="inline-block bg-panel px-1">Pick the second place.</p>}
          {chosen && (
            <p>
              <span className="bg-panel px-1">
                <b>{chosen.says}</b>
                {chosen.cut !== null && `, cut ${format(chosen.cut, "cut")}`}
              </span>
            </p>
          )}
        </div>
      </div>
      <Controls model={found} name={plan.name} />
      <Playback model={found} />
    </div>
  );
}
