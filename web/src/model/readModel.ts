import { type BufferGeometry, type Group, type Matrix4, Mesh, Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { toCreasedNormals } from "three/examples/jsm/utils/BufferGeometryUtils.js";

/** The server's model made ready to be shown: alike parts together, and every joint's way home. */

export type ModelNode = {
  name: string;
  kind: string;
  says: string;
  about: string;
  material: string;
  joints: string[];
  order: number | null;
  cut: number | null;
  matrix: Matrix4;
};
export type Alike = { key: string; geometry: BufferGeometry; material: string; nodes: ModelNode[] };
export type Move = {
  joint: string;
  says: string;
  method: string;
  why: string;
  angle: boolean;
  moves: string;
  stays: string;
  place: Vector3;
  way: Vector3;
  depth: number;
  radius: number;
  reach: number;
  start: number;
  hand: number;
  group: string;
  turn: string;
};
export type Model = {
  alike: Alike[];
  nodes: Map<string, ModelNode>;
  moves: Move[];
  /** By a node's name, the first move it is part of. */
  first: Map<string, number>;
  low: Vector3;
  high: Vector3;
};

const CREASE = 0.6; // rad from which an edge is drawn sharp

type Told = Omit<Move, "place" | "way"> & { place: number[]; way: number[] };

export async function readModel(file: ArrayBuffer): Promise<Model> {
  const { scene } = await new GLTFLoader().parseAsync(file, "");
  scene.updateMatrixWorld(true);
  const found = new Map<string, Alike>();
  const nodes = new Map<string, ModelNode>();
  const [low, high] = [new Vector3(Infinity, Infinity, Infinity), new Vector3(-Infinity, -Infinity, -Infinity)];
  const at = new Vector3();
  scene.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    const told = object.userData as Partial<ModelNode>;
    const material = told.material ?? "";
    const key = `${object.geometry.uuid} ${material}`;
    const node: ModelNode = {
      name: (told as { name?: string }).name ?? object.name,
      kind: told.kind ?? "",
      says: told.says ?? "",
      about: told.about ?? "",
      material,
      joints: told.joints ?? [],
      order: told.order ?? null,
      cut: told.cut ?? null,
      matrix: object.matrixWorld.clone(),
    };
    let alike = found.get(key);
    if (!alike) {
      const geometry = material === "ground" ? object.geometry : toCreasedNormals(object.geometry, CREASE);
      if (material === "ground") geometry.computeVertexNormals();
      geometry.computeBoundingBox();
      alike = { key, geometry, material, nodes: [] };
      found.set(key, alike);
    }
    alike.nodes.push(node);
    nodes.set(node.name, node);
    if (node.kind === "ground") return;
    const box = alike.geometry.boundingBox;
    for (const corner of box ? [box.min, box.max] : []) {
      at.copy(corner).applyMatrix4(node.matrix);
      low.min(at);
      high.max(at);
    }
  });
  if (!nodes.size) for (const v of [low, high]) v.set(0, 0, 0);
  const line = scene.getObjectByName("line") as Group | undefined;
  const told = ((scene.userData.moves ?? []) as Told[]).map((m) => ({
    ...m,
    place: turned(m.place, line, false),
    way: turned(m.way, line, true),
  }));
  const first = new Map<string, number>();
  told.forEach((m, n) => {
    for (const name of [m.moves, m.stays]) if (!first.has(name)) first.set(name, n);
  });
  return { alike: [...found.values()], nodes, moves: told, first, low, high };
}

/** A place, or only a way, of the drawing as the model stands. */
function turned([x, y, z]: number[], line: Group | undefined, way: boolean): Vector3 {
  const found = new Vector3(x ?? 0, y ?? 0, z ?? 0);
  if (!line) return found;
  return way ? found.transformDirection(line.matrixWorld) : found.applyMatrix4(line.matrixWorld);
}
