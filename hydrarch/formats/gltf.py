"""The model as glTF 2.0 binary: one mesh a part, nodes named by what they are, with what is known of them in `extras`.

Written upright by y, as glTF has it; the root node turns the drawing's own east, north and up, and moves its middle to
the origin.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import numpy as np
import trimesh
from trimesh.exchange.gltf import export_glb
from trimesh.visual import TextureVisuals
from trimesh.visual.material import PBRMaterial

from hydrarch.core.model.scene import LineModel, ModelNode

__all__ = ["model_glb"]

_UPRIGHT = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]])
_ROOT = "line"
_COLOURS: Mapping[str, tuple[int, int, int, int]] = {
    "pvc": (245, 245, 240, 255),
    "pvc80": (150, 158, 163, 255),
    "pe": (48, 60, 68, 255),
    "pe100": (48, 60, 68, 255),
    "drip": (48, 60, 68, 255),
    "ppr": (154, 163, 168, 255),
    "brass": (196, 160, 84, 255),
    "steel": (154, 163, 168, 255),
    "iron": (120, 126, 130, 255),
    "water": (11, 106, 138, 90),
    "ground": (196, 180, 141, 110),
    "mark": (158, 31, 43, 255),
    "thing": (150, 158, 163, 255),
}
_OTHER = (234, 224, 204, 255)


def model_glb(model: LineModel, states: Mapping[str, str] | None = None) -> bytes:
    """A model as one file. `states` has each joint's state by its id, where the file is to tell how far the work is.

    An empty model gives a file with a root and nothing under it.
    """
    scene = trimesh.Scene()
    dressed: dict[str, str] = {}
    for node in model.nodes:
        dressed.setdefault(node.mesh, node.material)
    middle = _middle(model)
    root = _UPRIGHT.copy()
    root[:3, 3] = -(_UPRIGHT[:3, :3] @ middle)
    scene.graph.update(frame_from=scene.graph.base_frame, frame_to=_ROOT, matrix=root)
    for name, material in dressed.items():
        mesh = model.meshes[name]
        shape = trimesh.Trimesh(mesh.corners, mesh.triangles, process=False)
        colour = _COLOURS.get(material, _OTHER)
        shape.visual = TextureVisuals(
            material=PBRMaterial(
                name=material,
                baseColorFactor=colour,
                metallicFactor=0.0,
                roughnessFactor=0.8,
                alphaMode="BLEND" if colour[3] < 255 else "OPAQUE",
                doubleSided=material == "ground",
            )
        )
        scene.geometry[name] = shape
    for node in model.nodes:
        scene.graph.update(
            frame_from=_ROOT, frame_to=node.name, matrix=node.matrix, geometry=node.mesh, metadata=_extras(node, states)
        )
    scene.metadata = {"moves": [asdict(m) for m in model.moves], "origin": [float(v) for v in middle]}
    return bytes(export_glb(scene, include_normals=False, tree_postprocessor=_signed))


def _signed(tree: dict[str, Any]) -> None:
    tree["asset"] = {"version": "2.0", "generator": "Hydrarch"}


def _middle(model: LineModel) -> np.ndarray[Any, np.dtype[np.float64]]:
    places = [n.matrix[:3, 3] for n in model.nodes if n.kind != "ground"]
    return np.mean(places, axis=0) if places else np.zeros(3)


def _extras(node: ModelNode, states: Mapping[str, str] | None) -> dict[str, Any]:
    told: dict[str, Any] = {
        "kind": node.kind,
        "says": node.says,
        "about": node.about,
        "material": node.material,
        "joints": list(node.joints),
        "order": node.order,
        "cut": node.length,
    }
    if states is not None:
        told["states"] = {j: states[j] for j in node.joints if j in states}
    return {k: v for k, v in told.items() if v is not None}
