import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import {
  BufferGeometry,
  Color,
  type InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Quaternion,
  TorusGeometry,
  Vector3,
} from "three";
import type { AsLaid, Stage } from "../api/types";
import { useJob } from "../job/jobStore";
import type { Model } from "./readModel";
import { token } from "./tokens";

/** What a stage shows besides the solids: in Cut where each piece stops, in Record how a joint is found from its marks. */
export function StageMarks({ model, stage, laid }: { model: Model; stage: Stage; laid: readonly AsLaid[] }) {
  if (stage === "cut") return <StopRings model={model} />;
  return stage === "keep" ? <TapeLines model={model} laid={laid} /> : null;
}

const [ROUND, THICK] = [1.5, 0.12]; // of the pipe's half width: a stop's ring about it, and how thick that is

/** A ring about both ends of every piece: it reaches from the one to the other, inside its sockets. */
function StopRings({ model }: { model: Model }) {
  const mesh = useRef<InstancedMesh>(null);
  const { invalidate } = useThree();
  const selected = useJob((s) => s.selected);
  const ends = useMemo(
    () =>
      model.alike.flatMap((a) =>
        a.nodes
          .filter((n) => n.kind === "pipe" && n.cut !== null)
          .flatMap((n) => {
            const half = a.geometry.boundingBox?.getSize(new Vector3()).x ?? 0;
            const [at, turn, size] = [new Vector3(), new Quaternion(), new Vector3()];
            n.matrix.decompose(at, turn, size);
            const radius = (half / 2) * size.x * ROUND;
            return [0, 1].map((z) => ({
              about: n.about,
              at: new Vector3(0, 0, z).applyMatrix4(n.matrix),
              turn,
              radius,
            }));
          }),
      ),
    [model],
  );
  const geometry = useMemo(() => new TorusGeometry(1, THICK, 8, 24), []);
  useEffect(() => {
    const shown = mesh.current;
    if (!shown) return;
    const [ink, chosen] = [token("--color-dry"), token("--color-water")];
    ends.forEach((e, n) => {
      shown.setMatrixAt(n, new Matrix4().compose(e.at, e.turn, new Vector3(e.radius, e.radius, e.radius)));
      shown.setColorAt(n, e.about === selected ? chosen : ink);
    });
    shown.instanceMatrix.needsUpdate = true;
    if (shown.instanceColor) shown.instanceColor.needsUpdate = true;
    shown.computeBoundingSphere();
    invalidate();
  }, [ends, selected, invalidate]);
  if (!ends.length) return null;
  return (
    <instancedMesh ref={mesh} args={[geometry, undefined, ends.length]} raycast={() => null}>
      <meshBasicMaterial color={new Color(1, 1, 1)} />
    </instancedMesh>
  );
}

/** The two tapes to the joint that is chosen: level from each mark to over it, and down to where it lies. */
function TapeLines({ model, laid }: { model: Model; laid: readonly AsLaid[] }) {
  const { invalidate } = useThree();
  const selected = useJob((s) => s.selected);
  const lines = useMemo(() => {
    const marks = new Map(
      [...model.nodes.values()].map((n) => [n.about, new Vector3().setFromMatrixPosition(n.matrix)]),
    );
    const corners = laid
      .filter((j) => j.joint === selected)
      .flatMap((j) => {
        const joint = model.moves.find((m) => m.joint === j.joint)?.place;
        return j.tapes.flatMap((t) => {
          const mark = marks.get(t.mark);
          if (!joint || !mark) return [];
          const over = new Vector3(joint.x, mark.y, joint.z);
          return [mark, over, over, joint];
        });
      });
    if (!corners.length) return null;
    const shown = new LineSegments(
      new BufferGeometry().setFromPoints(corners),
      new LineBasicMaterial({ color: token("--color-fault"), depthTest: false }),
    );
    shown.renderOrder = 5;
    return shown;
  }, [model, laid, selected]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other lines want a frame
  useEffect(() => invalidate(), [lines, invalidate]);
  return lines && <primitive object={lines} />;
}
