"""The line as it was laid for other people's maps: GeoJSON (RFC 7946), KML, DXF, and the drawing by itself as SVG."""

from __future__ import annotations

import io
import json
from collections.abc import Iterable
from typing import Any
from xml.etree import ElementTree

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.tie import Tie
from hydrarch.core.report.as_laid import AsLaid
from hydrarch.formats.drawing import drawings
from hydrarch.formats.features import features, said_when
from hydrarch.formats.pointsfile import UNTIED

__all__ = ["drawing_svg", "line_dxf", "line_geojson", "line_kml"]

_ORIGIN = "the drawing's own origin is set at 0° N 0° E: say in Survey where the job is, or move it"
_NAMED = {"run": "run", "thing": "name", "joint": "joint"}
_FOLDERS = {"run": "Pipe", "thing": "Parts", "joint": "Hidden joints"}
_A3, _LETTER = (0.38, 0.25), 0.0025
"""m of an A3 sheet that a drawing may take, and the height of a letter on it."""
_TIED = "places on the earth (WGS 84), by where the job is said to lie"


def line_geojson(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> str:
    """Runs as lines, things and hidden joints as points, with what is known of each; on the earth where the job is tied
    to it. An upright run is a point: a line over one spot is none.
    """
    tie = plan.tie or Tie(latitude=0.0, longitude=0.0)
    found: list[dict[str, Any]] = []
    for f in features(plan, derived, laid):
        places = [_degrees(tie, place) for place in f.places]
        alone = len(places) == 1 or places[0][:2] == places[1][:2]
        shape = {"type": "Point", "coordinates": places[0]} if alone else {"type": "LineString", "coordinates": places}
        told = {"kind": f.kind, _NAMED[f.kind]: f.name if f.kind == "thing" else f.id, **f.told}
        found.append({"type": "Feature", "id": f.id, "geometry": shape, "properties": told})
    whole = {
        "type": "FeatureCollection",
        "name": plan.name,
        "origin": _TIED if plan.tie else _ORIGIN,
        "frame": "earth" if plan.tie else UNTIED,
        "features": found,
    }
    return json.dumps(whole, indent=1, ensure_ascii=False) + "\n"


def line_kml(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> str:
    """The same as KML (OGC 12-007r2), a folder a kind, for the map on a phone. Raises `HydrarchError` where nobody said
    where on earth the job lies: a KML has no places of its own.
    """
    if plan.tie is None:
        raise HydrarchError("a KML needs to know where on earth the job is: enter it in Survey, or take the GeoJSON")
    root = ElementTree.Element("kml", {"xmlns": "http://www.opengis.net/kml/2.2"})
    document = ElementTree.SubElement(root, "Document")
    ElementTree.SubElement(document, "name").text = plan.name
    folders: dict[str, ElementTree.Element] = {}
    for f in features(plan, derived, laid):
        if f.kind not in folders:
            folders[f.kind] = ElementTree.SubElement(document, "Folder")
            ElementTree.SubElement(folders[f.kind], "name").text = _FOLDERS[f.kind]
        mark = ElementTree.SubElement(folders[f.kind], "Placemark", {"id": f"{f.kind}-{f.id}"})
        ElementTree.SubElement(mark, "name").text = f.name
        more = ElementTree.SubElement(mark, "ExtendedData")
        for name, value in f.told.items():
            if value not in (None, "", []):
                data = ElementTree.SubElement(more, "Data", {"name": name})
                ElementTree.SubElement(data, "value").text = _words(value)
        places = [_degrees(plan.tie, place)[:2] for place in f.places]
        alone = len(places) == 1 or places[0] == places[1]
        shape = ElementTree.SubElement(mark, "Point" if alone else "LineString")
        corners = " ".join(f"{x},{y}" for x, y in (places[:1] if alone else places))
        ElementTree.SubElement(shape, "coordinates").text = corners
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, "unicode") + "\n"


def _words(value: Any) -> str:
    if isinstance(value, list):
        return "; ".join(f"{one['m']} m from {one['from']}" for one in value)
    return {True: "yes", False: "no"}[value] if isinstance(value, bool) else str(value)


def _degrees(tie: Tie, place: tuple[float, float, float]) -> list[float]:
    latitude, longitude = tie.degrees(place[0], place[1])
    return [round(longitude, 9), round(latitude, 9), round(place[2], 3)]


def line_dxf(plan: Plan, derived: Derivation, laid: Iterable[AsLaid]) -> str:
    """The same as a DXF (release 2010) in metres: a layer for each pipe, those of existing pipe apart; things and
    hidden joints as blocks whose attributes say what each is, at its level. Words are set to be read on an A3 sheet.
    """
    from ezdxf import units  # loaded when first used: a server starts without it
    from ezdxf.document import Drawing

    document = Drawing.new("R2010")
    document.units = units.M
    space = document.modelspace()
    found = tuple(features(plan, derived, laid))
    xs, ys = ([place[i] for f in found for place in f.places] or [0.0] for i in (0, 1))
    high = max((max(xs) - min(xs)) / _A3[0], (max(ys) - min(ys)) / _A3[1], 0.02) * _LETTER
    for block, layer, colour, tags in (
        ("THING", "THINGS", 7, ("NAME", "WHAT", "DEPTH_M", "LEVEL_M")),
        ("JOINT", "JOINTS", 3, ("PLACE", "METHOD", "SIZE", "DEPTH_M", "LEVEL_M", "STATE", "MADE", "TESTED", "BY")),
    ):
        document.layers.add(layer, color=colour)
        made = document.blocks.new(block)
        made.add_circle((0, 0), high / 2)
        for n, tag in enumerate(tags):
            made.add_attdef(tag, (high, -n * 1.6 * high), dxfattribs={"height": high, "flags": 0 if n == 0 else 1})
    for f in found:
        if f.kind == "run":
            existing = "EXISTING " if f.told["met"] else ""
            layer = f"{existing}PIPE {f.name}".replace("/", "-")
            if layer not in document.layers:
                document.layers.add(layer, color=8 if f.told["met"] else 5)
            space.add_line(f.places[0], f.places[1], {"layer": layer})
            continue
        if f.kind == "thing" and plan.by_id[f.id].kind.plain:
            continue
        level = f"{f.places[0][2]:.3f}"
        told = (
            {"NAME": f.name, "WHAT": f.told["what"], "DEPTH_M": f"{f.told['depth_m']:.3f}", "LEVEL_M": level}
            if f.kind == "thing"
            else {
                "PLACE": f.told["place"],
                "METHOD": f.told["method"],
                "SIZE": f.told["size"],
                "DEPTH_M": f"{f.told['depth_m']:.3f}",
                "LEVEL_M": level,
                "STATE": f.told["state"],
                "MADE": f.told["made"] or "",
                "TESTED": f.told["proved"] or "",
                "BY": f.told["by"],
            }
        )
        block = f.kind.upper()
        space.add_blockref(block, f.places[0], {"layer": f"{block}S"}).add_auto_attribs(told)
    document.header["$EXTMIN"] = (min(xs), min(ys), 0.0)
    document.header["$EXTMAX"] = (max(xs), max(ys), 0.0)
    space.reset_extents((min(xs), min(ys), 0.0), (max(xs), max(ys), 0.0))
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def drawing_svg(plan: Plan, derived: Derivation, at: float) -> str:
    """The line from above as SVG, to a round scale, with its bar, and below it the job, the scale and the day of `at`
    (s since 1970, UTC); blank paper where nothing is drawn.
    """
    sheets = drawings(plan, derived)
    if not sheets:
        return '<svg xmlns="http://www.w3.org/2000/svg" width="178mm" height="40mm" viewBox="0 0 178 40"/>'
    sheet = sheets[0]
    sheet.paper.foot(f"{plan.name}. {sheet.title}. {(said_when(at) or '')[:10]}")
    return sheet.svg
