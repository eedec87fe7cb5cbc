import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import {
  BackSide,
  type BufferGeometry,
  type Camera,
  DoubleSide,
  type InstancedMesh,
  type Material,
  Matrix4,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type OrthographicCamera,
  Plane,
  Quaternion,
  Vector3,
} from "three";
import { stateTone } from "../drawing/joints";
import { useStands } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useModel } from "./modelStore";
import type { Alike, Model, ModelNode } from "./readModel";
import { token } from "./tokens";

/** Every solid in its place: alike ones in one call. Colours are those of the drawing; the state of a joint is its ring. */

const MATERIALS: Record<string, string> = {
  pvc: "--color-pipe-white",
  pvc80: "--color-pipe-grey",
  pe: "--color-pipe-dark",
  pe100: "--color-pipe-dark",
  drip: "--color-pipe-dark",
  ppr: "--color-pipe-grey",
  steel: "--color-pipe-grey",
  iron: "--color-pipe-grey",
  brass: "--color-curing-soft",
  thing: "--color-edge",
  water: "--color-water",
  ground: "--color-soil-line",
  mark: "--color-fault",
};
const LINE = 1.1; // px about every solid
const LEAST = 1.6; // px of half of what is thin, so that a pipe far off is still a pipe
const ALONG = new Vector3(0, 0, 1);
const UP = new Vector3(0, 1, 0);

/** The theme the page shows now, whoever switched it. */
function useShownTheme(): string {
  return useSyncExternalStore(
    (told) => {
      const seen = new MutationObserver(told);
      seen.observe(document.documentElement, { attributeFilter: ["data-theme"] });
      return () => seen.disconnect();
    },
    () => document.documentElement.dataset.theme ?? "light",
  );
}

/** By a run's id, the colour its section's test gives it. */
export type Tints = ReadonlyMap<string, string>;

export function Solids({ model, tints }: { model: Model; tints: Tints }) {
  const theme = useShownTheme();
  const { invalidate } = useThree();
  const section = useModel((s) => s.section);
  const glass = useModel((s) => s.glass);
  const planes = useMemo(() => {
    if (!section) return [];
    const { axis, share } = section;
    const [low, high, way] =
      axis === "east"
        ? [model.low.x, model.high.x, new Vector3(-1, 0, 0)]
        : axis === "north"
          ? [-model.high.z, -model.low.z, new Vector3(0, 0, 1)]
          : [model.low.y, model.high.y, new Vector3(0, -1, 0)];
    return [new Plane(way, low + share * (high - low))];
  }, [section, model]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever changes what is seen wants a frame
  useEffect(() => invalidate(), [theme, planes, glass, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme changes what the tokens are
  const light = useMemo(() => token("--color-paper"), [theme]);
  return (
    <>
      <hemisphereLight args={[0xffffff, light, theme === "dark" ? 1.5 : 2.1]} />
      <directionalLight position={[3, 8, 5]} intensity={theme === "dark" ? 1.3 : 1.5} />
      {model.alike.map((a) => (
        <Instances key={`${a.key} ${theme}`} alike={a} model={model} planes={planes} glass={glass} tints={tints} />
      ))}
      <JointRings key={theme} model={model} planes={planes} />
      <HandMarks key={`marks ${theme}`} model={model} />
    </>
  );
}

type InstancesProps = { alike: Alike; model: Model; planes: Plane[]; glass: boolean; tints: Tints };

function Instances({ alike, model, planes, glass, tints }: InstancesProps) {
  const mesh = useRef<InstancedMesh>(null);
  const { invalidate } = useThree();
  const selected = useJob((s) => s.selected);
  const select = useJob((s) => s.select);
  const { step, apart, measuring, pick } = useModel();
  const base = useMemo(() => token(MATERIALS[alike.material] ?? "--color-soil"), [alike.material]);
  const chosen = useMemo(() => token("--color-water"), []);
  const rim = useRef<InstancedMesh>(null);
  const outline = useMemo(
    () => growing(new MeshBasicMaterial({ color: token("--color-ink"), side: BackSide, clippingPlanes: planes })),
    [planes],
  );
  const body = useMemo(() => {
    const ground = alike.material === "ground";
    const through = ground || alike.material === "water";
    const made = new MeshLambertMaterial({
      clippingPlanes: ground ? [] : planes,
      side: DoubleSide,
      transparent: through,
      opacity: ground ? 0.28 : through ? 0.35 : 1,
      depthWrite: !through,
    });
    return through ? made : growing(made);
  }, [alike.material, planes]);
  const flat = alike.material === "ground" || alike.material === "water";
  const move = step === null ? null : (model.moves[step] ?? null);
  useEffect(() => {
    const shown = mesh.current;
    if (!shown) return;
    const matrix = new Matrix4();
    alike.nodes.forEach((node, n) => {
      matrix.copy(node.matrix);
      if (step !== null && hidden(node, step, model)) matrix.makeScale(0, 0, 0);
      shown.setMatrixAt(n, matrix);
      const mine =
        selected !== null && (node.about === selected || node.joints.includes(selected) || node.name === selected);
      const inHand = move && (node.name === move.moves || node.name === move.stays);
      const tint = tints.get(node.about);
      const own = tint ? base.clone().lerp(token(tint), 0.55) : base;
      shown.setColorAt(n, mine || inHand ? chosen.clone().lerp(own, inHand && !mine ? 0.6 : 0.25) : own);
    });
    shown.instanceMatrix.needsUpdate = true;
    if (shown.instanceColor) shown.instanceColor.needsUpdate = true;
    shown.computeBoundingSphere();
    if (rim.current) {
      rim.current.instanceMatrix.copy(shown.instanceMatrix);
      rim.current.instanceMatrix.needsUpdate = true;
      rim.current.computeBoundingSphere();
      const half = halfOf(alike.geometry);
      const thin = (camera: Camera) => Math.max(0, LEAST / (camera as OrthographicCamera).zoom - half);
      shown.onBeforeRender = (_gl, _scene, camera) => {
        body.userData.wide.value = thin(camera);
      };
      rim.current.onBeforeRender = (_gl, _scene, camera) => {
        outline.userData.wide.value = thin(camera) + LINE / (camera as OrthographicCamera).zoom;
      };
    }
    invalidate();
  }, [alike, model, step, move, selected, base, chosen, body, outline, tints, invalidate]);
  // what goes home moves alone, frame by frame, after all stand where they are in this step
  useEffect(() => {
    const n = move ? alike.nodes.findIndex((node) => node.name === move.moves) : -1;
    const node = alike.nodes[n];
    if (!move || !node) return;
    const back = move.way.clone().multiplyScalar(-move.reach * Math.min(1, Math.max(0, apart)));
    const matrix = new Matrix4().makeTranslation(back).multiply(node.matrix);
    for (const shown of [mesh.current, rim.current]) {
      if (!shown) continue;
      shown.setMatrixAt(n, matrix);
      shown.instanceMatrix.needsUpdate = true;
    }
    invalidate();
  }, [alike, move, apart, invalidate]);
  const press = (e: ThreeEvent<MouseEvent>) => {
    if (flat || e.delta > 6 || e.instanceId === undefined || cutAway(e.point, planes)) return;
    e.stopPropagation();
    const node = alike.nodes[e.instanceId];
    if (!node) return;
    if (measuring) {
      const at = snapped(e.point, model);
      pick([at.x, at.y, at.z]);
    } else select(node.about || node.joints[0] || null);
  };
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: solids of the model, no elements of the page; what they choose is in the sheets too */}
      <instancedMesh
        ref={mesh}
        args={[alike.geometry, body, alike.nodes.length]}
        onClick={press}
        renderOrder={flat ? 2 : 0}
        visible={!(glass && alike.material === "ground")}
      ></instancedMesh>
      {!flat && <instancedMesh ref={rim} args={[alike.geometry, outline, alike.nodes.length]} raycast={() => null} />}
    </>
  );
}

/** A material whose shape is grown by so many metres along its normals, told just before it is drawn. */
function growing<M extends Material>(material: M): M {
  const wide = { value: 0 };
  material.onBeforeCompile = (shader) => {
    shader.uniforms.wide = wide;
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nuniform float wide;")
      .replace("#include <begin_vertex>", "vec3 transformed = position + normalize(normal) * wide;");
  };
  material.userData.wide = wide;
  return material;
}

/** Half of the least width (m) of a shape. */
function halfOf(geometry: BufferGeometry): number {
  const size = geometry.boundingBox?.getSize(new Vector3());
  return size ? Math.min(size.x, size.y, size.z) / 2 : 0;
}

/** Whether a node is not there yet in the playback: its first joint is later than the one in hand. */
const hidden = (node: ModelNode, step: number, model: Model): boolean =>
  node.kind !== "thing" && node.joints.length > 0 && (model.first.get(node.name) ?? -1) > step;

const cutAway = (at: Vector3, planes: readonly Plane[]) => planes.some((p) => p.distanceToPoint(at) < 0);

const SNAP = 0.025; // m within which a pick goes to a stop, a face or a centre

/** The stop, mouth or centre that is meant by a pick; the pick itself where none is near. */
function snapped(at: Vector3, model: Model): Vector3 {
  let [best, near] = [at, SNAP];
  const take = (there: Vector3) => {
    const far = there.distanceTo(at);
    if (far < near) [best, near] = [there, far];
  };
  for (const m of model.moves)
    for (const share of [-0.5, 0, 0.5]) take(m.place.clone().addScaledVector(m.way, share * m.depth));
  for (const n of model.nodes.values()) if (n.kind !== "ground") take(new Vector3().setFromMatrixPosition(n.matrix));
  return best;
}

/** A ring about every joint, as its state; with it a letter in the drawing says the same. */
function JointRings({ model, planes }: { model: Model; planes: Plane[] }) {
  const ready = useStands()?.readiness ?? null;
  const mesh = useRef<InstancedMesh>(null);
  const { invalidate } = useThree();
  const step = useModel((s) => s.step);
  const select = useJob((s) => s.select);
  const colours = useMemo(
    () => Object.fromEntries(Object.entries(stateTone).map(([state, tone]) => [state, token(tone.ring.slice(4, -1))])),
    [],
  );
  const other = useMemo(() => token("--color-muted"), []);
  useEffect(() => {
    const shown = mesh.current;
    if (!shown) return;
    const [matrix, turn] = [new Matrix4(), new Vector3()];
    model.moves.forEach((m, n) => {
      matrix.lookAt(turn.set(0, 0, 0), m.way, Math.abs(m.way.y) > 0.9 ? new Vector3(1, 0, 0) : UP);
      const size = step === null || n < step ? 1.45 * m.radius : 0;
      matrix.scale(turn.set(size, size, size)).setPosition(m.place);
      shown.setMatrixAt(n, matrix);
      shown.setColorAt(n, colours[ready?.joints[m.joint]?.state ?? "planned"] ?? other);
    });
    shown.instanceMatrix.needsUpdate = true;
    if (shown.instanceColor) shown.instanceColor.needsUpdate = true;
    invalidate();
  }, [model, ready, step, colours, other, invalidate]);
  if (!model.moves.length) return null;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: solids of the model, no elements of the page; what they choose is in the sheets too
    <instancedMesh
      ref={mesh}
      args={[undefined, undefined, model.moves.length]}
      onClick={(e) => {
        if (e.delta > 6 || e.instanceId === undefined || cutAway(e.point, planes) || useModel.getState().measuring)
          return;
        e.stopPropagation();
        select(model.moves[e.instanceId]?.joint ?? null);
      }}
    >
      <torusGeometry args={[1, 0.1, 8, 24]} />
      <meshBasicMaterial clippingPlanes={planes} />
    </instancedMesh>
  );
}

/** What is drawn on the parts of the joint in hand: the depth mark that goes home with it, and the index line across both. */
function HandMarks({ model }: { model: Model }) {
  const { step, apart } = useModel();
  const { invalidate } = useThree();
  const move = step === null ? null : (model.moves[step] ?? null);
  const [mark, line] = useMemo(() => [token("--color-fault"), token("--color-water")], []);
  useEffect(() => {
    if (move || apart) invalidate();
  }, [move, apart, invalidate]);
  const turn = useMemo(() => (move ? new Quaternion().setFromUnitVectors(ALONG, move.way) : null), [move]);
  if (!move || !turn) return null;
  const back = -move.reach * Math.min(1, Math.max(0, apart));
  const mouth = move.place.clone().addScaledVector(move.way, -move.depth / 2);
  const moving = mouth.clone().addScaledVector(move.way, back);
  const long = move.depth + 0.03;
  const side = move.radius * 1.02;
  return (
    <>
      <mesh position={moving} quaternion={turn}>
        <torusGeometry args={[side, 0.04 * move.radius + 4e-4, 6, 40]} />
        <meshBasicMaterial color={mark} />
      </mesh>
      {move.angle &&
        [
          [mouth, 0.5],
          [moving, -0.5],
        ].map(([at, half]) => (
          <group key={String(half)} position={at as Vector3} quaternion={turn}>
            <mesh position={[0, move.radius * ((half as number) > 0 ? 1.26 : 1.02), (half as number) * long]}>
              <boxGeometry args={[0.06 * move.radius + 6e-4, 0.06 * move.radius + 6e-4, long]} />
              <meshBasicMaterial color={line} />
            </mesh>
          </group>
        ))}
    </>
  );
}
