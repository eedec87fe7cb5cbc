"""The line as it was laid for other people's maps: GeoJSON (RFC 7946), DXF, and the drawing by itself as SVG."""

from __future__ import annotations

import io
import json
from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.tie import Tie
from hydrarch.core.report.as_laid import AsLaid
from hydrarch.formats.drawing import drawings
from hydrarch.formats.pointsfile import UNTIED

__all__ = ["drawing_svg", "line_dxf", "line_geojson"]

_ORIGIN = "the drawing's own origin is set at 0° N 0° E: say in Survey where the job is, or move it"
_TIED = "places on the earth (WGS 84), by where the job is said to lie"


def line_geojson(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> str:
    """Runs as lines, things and hidden joints as points, with what is known of each; on the earth where the job is tied
    to it. An upright run is a point: a line over one spot is none.
    """
    tie = plan.tie or Tie(latitude=0.0, longitude=0.0)
    features: list[dict[str, Any]] = []

    def _degrees(x: float, y: float, level: float) -> list[float]:
        latitude, longitude = tie.degrees(x, y)
        return [round(longitude, 9), round(latitude, 9), round(level, 3)]

    for run in plan.runs:
        a, b = plan.by_id[run.a.point], plan.by_id[run.b.point]
        choice = derived.sizes.choices.get(run.id)
        told = {
            "kind": "run",
            "run": run.id,
            "from": plan.names[a.id],
            "to": plan.names[b.id],
            "situation": run.situation,
            "pipe": _pipe(plan, derived, run.id),
            "size": choice.size if choice else "",
            "depth_from_m": round(a.depth, 3),
            "depth_to_m": round(b.depth, 3),
            "met": run.existing is not None,
        }
        line = [_degrees(p.x, p.y, p.level) for p in (a, b)]
        upright = line[0][:2] == line[1][:2]
        shape = {"type": "Point", "coordinates": line[0]} if upright else {"type": "LineString", "coordinates": line}
        features.append({"type": "Feature", "id": run.id, "geometry": shape, "properties": told})
    for p in plan.points:
        told = {
            "kind": "thing",
            "name": plan.names[p.id],
            "what": p.kind.title,
            "ground_m": round(p.ground, 3),
            "depth_m": round(p.depth, 3),
            "met": p.existing is not None,
        }
        spot = {"type": "Point", "coordinates": _degrees(p.x, p.y, p.level)}
        features.append({"type": "Feature", "id": p.id, "geometry": spot, "properties": told})
    for j in laid:
        told = {
            "kind": "joint",
            "joint": j.joint,
            "place": j.place,
            "method": j.method,
            "size": j.size,
            "situation": j.situation,
            "depth_m": round(j.depth, 3),
            "by": j.by,
            "made": _when(j.at),
            "proved": _when(j.proved_at),
            "state": j.state,
            "measured": [{"from": t.name, "m": round(t.distance, 3)} for t in j.tapes],
        }
        spot = {"type": "Point", "coordinates": _degrees(j.x, j.y, j.level)}
        features.append({"type": "Feature", "id": j.joint, "geometry": spot, "properties": told})
    whole = {
        "type": "FeatureCollection",
        "name": plan.name,
        "origin": _TIED if plan.tie else _ORIGIN,
        "frame": "earth" if plan.tie else UNTIED,
        "features": features,
    }
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"


def _when(at: float | None) -> str | None:
    return None if at is None else datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _pipe(plan: Plan, derived: Derivation, run: str) -> str:
    choice = derived.sizes.choices.get(run)
    name = (choice.series if choice else None) or plan.run_by_id[run].series or plan.conditions.series
    return series(name).short


def line_dxf(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> str:
    """The same as a DXF (release 2010) in metres: a layer for each pipe, one for the things and one for hidden joints,
    each at its level.
    """
    from ezdxf import units  # loaded when first used: a server starts without it
    from ezdxf.document import Drawing
    from ezdxf.enums import TextEntityAlignment

    document = Drawing.new("R2010")
    document.units = units.M
    space = document.modelspace()
    for run in plan.runs:
        a, b = plan.by_id[run.a.point], plan.by_id[run.b.point]
        choice = derived.sizes.choices.get(run.id)
        layer = " ".join(filter(None, ("PIPE", _pipe(plan, derived, run.id), choice.size if choice else ""))).replace(
            "/", "-"
        )
        if layer not in document.layers:
            document.layers.add(layer, color=5 if run.existing is None else 8)
        space.add_line((a.x, a.y, a.level), (b.x, b.y, b.level), {"layer": layer})
    for name, colour in (("THINGS", 7), ("JOINTS", 3)):
        document.layers.add(name, color=colour)
    for p in plan.points:
        if p.kind.plain:
            continue
        space.add_point((p.x, p.y, p.level), {"layer": "THINGS"})
        words = space.add_text(p.label, height=0.25, dxfattribs={"layer": "THINGS"})
        words.set_placement((p.x + 0.3, p.y + 0.3, p.level), align=TextEntityAlignment.LEFT)
    for j in laid:
        space.add_circle((j.x, j.y, j.level), 0.1, {"layer": "JOINTS"})
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def drawing_svg(plan: Plan, derived: Derivation) -> str:
    """The line from above as SVG, to a round scale, with its bar; blank paper where nothing is drawn."""
    sheets = drawings(plan, derived)
    return (
        sheets[0].svg
        if sheets
        else '<svg xmlns="http://www.w3.org/2000/svg" width="178mm" height="40mm" viewBox="0 0 178 40"/>'
    )
