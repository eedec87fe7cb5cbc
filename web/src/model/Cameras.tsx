import { useThree } from "@react-three/fiber";
import { useCallback, useEffect, useRef } from "react";
import { Box3, OrthographicCamera, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { type Ask, useModel } from "./modelStore";
import type { Model } from "./readModel";

const WAYS: Record<Extract<Ask, { kind: "from" }>["way"], Vector3> = {
  above: new Vector3(0, 1, 0.0001),
  south: new Vector3(0, 0.0001, 1),
  east: new Vector3(1, 0.0001, 0),
  standing: new Vector3(-0.7, 0.75, 1),
};

/** Turning, moving and zooming by mouse, touch and keys; from which side it is seen. */
export function Cameras({ model }: { model: Model }) {
  const { camera, gl, invalidate, size } = useThree();
  const controls = useRef<OrbitControls | null>(null);
  const asked = useModel((s) => s.asked);
  const set = useModel((s) => s.set);
  const fitted = useRef(false);

  const look = useCallback(
    (way: Vector3 | null) => {
      const moved = controls.current;
      if (!moved || !(camera instanceof OrthographicCamera)) return;
      const box = new Box3(model.low, model.high);
      const middle = box.getCenter(new Vector3());
      const far = Math.max(box.getSize(new Vector3()).length(), 0.3);
      const from = (way ?? camera.position.clone().sub(moved.target)).clone().normalize();
      camera.position.copy(middle).addScaledVector(from, far * 2);
      camera.near = -far * 20;
      camera.far = far * 40;
      moved.target.copy(middle);
      camera.lookAt(middle);
      camera.updateMatrixWorld();
      const seen = new Box3();
      const corner = new Vector3();
      for (const x of [box.min.x, box.max.x])
        for (const y of [box.min.y, box.max.y])
          for (const z of [box.min.z, box.max.z])
            seen.expandByPoint(corner.set(x, y, z).applyMatrix4(camera.matrixWorldInverse));
      const across = seen.getSize(corner);
      camera.zoom = 0.86 * Math.min(size.width / Math.max(across.x, 0.2), size.height / Math.max(across.y, 0.2));
      camera.updateProjectionMatrix();
      moved.update();
      invalidate();
    },
    [camera, model, size, invalidate],
  );

  useEffect(() => {
    const made = new OrbitControls(camera, gl.domElement);
    made.addEventListener("change", () => invalidate());
    made.enableDamping = false;
    made.zoomToCursor = true;
    controls.current = made;
    const canvas = gl.domElement;
    canvas.tabIndex = 0;
    made.listenToKeyEvents(canvas);
    const keyed = (e: KeyboardEvent) => {
      const step = e.key === "+" || e.key === "=" ? 1.25 : e.key === "-" ? 0.8 : 0;
      if (!step || !(camera instanceof OrthographicCamera)) return;
      camera.zoom *= step;
      camera.updateProjectionMatrix();
      invalidate();
    };
    canvas.addEventListener("keydown", keyed);
    return () => {
      canvas.removeEventListener("keydown", keyed);
      made.dispose();
      controls.current = null;
    };
  }, [camera, gl, invalidate]);

  useEffect(() => {
    if (fitted.current || size.width === 0) return;
    fitted.current = true;
    look(WAYS.standing);
  }, [look, size]);
  useEffect(() => {
    if (!asked) return;
    look(asked.kind === "fit" ? null : WAYS[asked.way]);
    set({ asked: null });
  }, [asked, look, set]);
  return null;
}
