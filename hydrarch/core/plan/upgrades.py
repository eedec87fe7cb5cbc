"""Plans of earlier formats, brought to the newest; and a plan that no longer holds together, opened all the same.

A step a format, on the plain document. What a step knows of older formats stands here and nowhere else; it is never
changed once a newer one follows.
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Callable, Iterable
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import RESERVED
from hydrarch.core.plan.document import FORMAT, LEAST_LENGTH, Plan

__all__ = ["LeftOut", "NewerFormat", "format_of", "OldNames", "old_names", "open_plan", "read_plan", "upgraded"]

Body = dict[str, Any]
_PREFIX = "hydrarch/plan/"
_MOST_LEFT_OUT = 500


class NewerFormat(HydrarchError):
    """A plan of format `number`, which this version does not know yet."""

    def __init__(self, number: int) -> None:
        self.number = number
        super().__init__(
            f"this plan has format {number}, and this version reads up to {FORMAT}: bring Hydrarch up to date "
            "to open it"
        )


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Something of a stored plan that could not be read and was left out: where it stood, and why."""

    where: str
    says: str


def format_of(body: Body) -> int:
    """The number of a plan's format; a plan that names none has the newest.

    Raises `HydrarchError` where it names nonsense.
    """
    said = body.get("format", f"{_PREFIX}{FORMAT}")
    if not isinstance(said, str) or not said.startswith(_PREFIX) or not said[len(_PREFIX) :].isdigit():
        raise HydrarchError(f"'{str(said)[:40]}' is not the format of a plan: it must be '{_PREFIX}{FORMAT}'")
    return int(said[len(_PREFIX) :])


def upgraded(body: Body) -> Body:
    """The document in the newest format; the one given is left as it is.

    Raises `NewerFormat` for one from the future, `HydrarchError` for an old one that does not hold together.
    """
    number = format_of(body)
    if number > FORMAT:
        raise NewerFormat(number)
    body = deepcopy(body)
    for n in range(number, FORMAT):
        try:
            _STEPS[n](body)
        except (KeyError, TypeError, AttributeError, ValueError) as error:
            raise HydrarchError(
                f"this plan of format {n} does not hold together: {error} is missing or of another kind"
            ) from error
    body["format"] = f"{_PREFIX}{FORMAT}"
    return body


def read_plan(body: Body) -> Plan:
    """A plan from a document of any format; raises `NewerFormat`, or pydantic's `ValidationError` where it does not
    hold together.
    """
    return Plan.model_validate(upgraded(body))


def open_plan(body: Body) -> tuple[Plan, tuple[LeftOut, ...]]:
    """A stored plan, whatever has become of it: what cannot be read is left out and told, and the rest opens.

    Raises `NewerFormat`, and `HydrarchError` where nothing of it can be read.
    """
    body, told = upgraded(body), list[LeftOut]()
    for _ in range(_MOST_LEFT_OUT):
        try:
            return Plan.model_validate(body), tuple(told)
        except ValidationError as error:
            found = error.errors(include_url=False, include_context=False)
        left = _leave_out(body, found)
        if not left:
            break
        told += left
    raise HydrarchError("nothing of this plan can be read: go back to an earlier revision")


def _leave_out(body: Body, faults: Iterable[Any]) -> list[LeftOut]:
    """Take out what the faults name: a field that is optional, or the whole item it belongs to; empty where nothing
    could be.
    """
    gone: list[LeftOut] = []
    items: dict[tuple[str, int], str] = {}
    for fault in faults:
        loc, says = fault["loc"], str(fault["msg"])
        if len(loc) >= 2 and isinstance(body.get(loc[0]), list) and isinstance(loc[1], int):
            item = body[loc[0]][loc[1]]
            if fault["type"] == "extra_forbidden" and _drop(item, loc[2:]):
                gone.append(LeftOut(_spot(loc[0], item), says))
            else:
                items[loc[0], loc[1]] = says
        elif loc and loc[0] == "name":
            body["name"] = "Job"
            gone.append(LeftOut("name", says))
        elif len(loc) == 1 and loc[0] in ("points", "runs"):
            body[loc[0]] = []
            gone.append(LeftOut(str(loc[0]), says))
        elif loc and loc[0] in body and loc[0] not in ("points", "runs"):
            if len(loc) > 1 and _drop(body[loc[0]], loc[1:]):
                gone.append(LeftOut(".".join(map(str, loc)), says))
            else:
                del body[loc[0]]
                gone.append(LeftOut(str(loc[0]), says))
        else:
            gone += _mend_whole(body, says)
    for (table, place), says in sorted(items.items(), reverse=True):
        gone.append(LeftOut(_spot(table, body[table].pop(place)), says))
    return gone


def _spot(table: str, item: Any) -> str:
    return str(item.get("id") or item.get("name") or table) if isinstance(item, dict) else table


def _drop(item: Any, path: Iterable[Any]) -> bool:
    *way, last = path
    for step in way:
        item = (
            item.get(step)
            if isinstance(item, dict)
            else item[step]
            if isinstance(item, list) and isinstance(step, int)
            else None
        )
    if isinstance(item, dict) and last in item:
        del item[last]
        return True
    return False


def _mend_whole(body: Body, says: str) -> list[LeftOut]:
    """What belongs together and does not: runs to nowhere, scenarios that open nothing, names given twice, answers
    nobody gives.
    """
    gone: list[LeftOut] = []
    seen: set[str] = set()
    for table in ("points", "runs"):
        kept = []
        for item in body.get(table, []):
            names = [item.get("id"), *(item[e].get("id") for e in ("a", "b") if isinstance(item.get(e), dict))]
            stands = table == "points" or all(
                item[e].get("point") in {p.get("id") for p in body["points"]} for e in ("a", "b")
            )
            if stands and len(set(names)) == len(names) and not seen & set(names):
                kept.append(item)
                seen |= set(names)
            else:
                gone.append(LeftOut(str(item.get("id")), says))
        body[table] = kept
    here = {p.get("id") for p in body.get("points", [])}
    for s in body.get("scenarios", []):
        missing = [x for x in s.get("open", []) if x not in here]
        if missing:
            s["open"] = [x for x in s["open"] if x in here]
            gone.append(LeftOut(str(s.get("id")), says))
    if not gone:
        for table in ("practices", "prices", "scenarios"):
            if body.pop(table, None):
                gone.append(LeftOut(table, says))
                break
    return gone


# Format 1: runs went from point to point, a device's way was guessed from the distance to the source, threads were a
# field.

_THREADED_OUT, _THREADED_IN = ("well_pump", "mains", "tank"), ("tap", "sprinkler", "drip", "hydrant")
_THREADED_BOTH, _THREADED_LINE = ("pump", "regulator"), ("vessel",)
_ONE_PORT = {
    **dict.fromkeys((*_THREADED_OUT, "drain_inlet"), "out"),
    **dict.fromkeys((*_THREADED_IN, "vent", "outfall", "relief"), "in"),
    **dict.fromkeys(("vessel", "cap", "junction", "bend", "drip_row"), "line"),
    **dict.fromkeys(("skimmer", "suction_cover", "bulkhead", "standpipe", "blower"), "out"),
    **dict.fromkeys(("returns", "bulkhead_in", "top_up", "bubbler"), "in"),
    "jet": "water",
    "small_jet": "water",
    "basin": "",
}
_IN_LINE = ("valve", "check_valve", "union", "filter", "backflow", "pump", "regulator", "heater", "injector")
_DEFAULT_THREAD = {
    "well_pump": "1-1/4",
    "mains": "1",
    "tank": "1-1/2",
    "pump": "1-1/4",
    "regulator": "3/4",
    "vessel": "1",
    "tap": "3/4",
    "sprinkler": "1/2",
    "drip": "3/4",
    "hydrant": "1",
}


@dataclass(frozen=True, slots=True)
class OldNames:
    """What the points, runs and run ends (by point and run) of a plan of format 1 are called from format 2 on."""

    points: dict[str, str]
    runs: dict[str, str]
    ends: dict[tuple[str, str], str]


def old_names(body: Body) -> OldNames:
    """The new names of all in a plan of format 1: a run called as a point is, or by a word with a meaning, is called
    something else.
    """
    own = {p["id"] for p in body.get("points", [])}
    taken = own | RESERVED
    points: dict[str, str] = {}
    for name in sorted(own):
        points[name] = name if name not in RESERVED else _fresh(name, taken)
        taken.add(points[name])
    runs: dict[str, str] = {}
    for run in body.get("runs", []):
        runs[run["id"]] = _fresh(run["id"], taken)
        taken.add(runs[run["id"]])
    ends: dict[tuple[str, str], str] = {}
    for run in body.get("runs", []):
        for side in ("a", "b"):
            ends[run[side], run["id"]] = _fresh(f"{runs[run['id']]}{side}", taken)
            taken.add(ends[run[side], run["id"]])
    return OldNames(points, runs, ends)


def _fresh(wanted: str, taken: set[str]) -> str:
    wanted = wanted[:36]
    if wanted not in taken:
        return wanted
    n = 2
    while f"{wanted}-{n}" in taken:
        n += 1
    return f"{wanted}-{n}"


def _from_1(body: Body) -> None:
    names = old_names(body)
    kinds = {p["id"]: p["what"]["kind"] for p in body.get("points", [])}
    ports = _old_ports(body, kinds)
    for point in body.get("points", []):
        what = point["what"]
        thread = what.pop("thread", _DEFAULT_THREAD.get(what["kind"]))
        if thread is not None and what.get("intake") != "foot valve":
            sides = ("in", "out") if what["kind"] in _THREADED_BOTH else (_ONE_PORT[what["kind"]],)
            point["ports"] = {side: f"npt:female:{thread}" for side in sides}
        if what["kind"] == "three_way" and what.get("shut"):
            what["shut"] = ports.get((point["id"], what["shut"]), "")
        if "at_flow" in what:
            what["at_flow"] = max(what["at_flow"], 1e-7)
        point["name"] = _clean(point.get("name", ""))
        point["id"] = names.points[point["id"]]
    for run in body.get("runs", []):
        old = run["id"]
        for side in ("a", "b"):
            at = run[side]
            run[side] = {"id": names.ends[at, old], "point": names.points[at], "port": ports[at, old]}
        run["id"] = names.runs[old]
        if run.get("measured_length") is not None:
            run["measured_length"] = max(run["measured_length"], LEAST_LENGTH)
    for way in body.get("chosen", []):
        at, run = way.pop("point"), way.pop("run")
        way["end"] = names.ends.get((at, run), f"{names.points.get(at, at)}~{run}")
    for hub in body.get("hubs", []):
        hub["point"] = names.points.get(hub["point"], hub["point"])
    for scenario in body.get("scenarios", []):
        scenario["id"] = _fresh(scenario["id"], set(RESERVED))
        scenario["name"] = _clean(scenario.get("name", ""))
        scenario["open"] = [names.points.get(p, p) for p in scenario.get("open", [])]
    for extra in body.get("extras", []):
        extra["note"] = _clean(extra.get("note", ""))
    body["name"] = _clean(body["name"]) or "Job"
    body["ways"], body["nodes"] = body.pop("chosen", []), body.pop("hubs", [])
    conditions = body.setdefault("conditions", {})
    if "pump_efficiency" in conditions:
        conditions["pump_efficiency"] = max(conditions["pump_efficiency"], 0.01)


def _clean(text: str) -> str:
    return "".join(c for c in text if not (c < " " or c == "\x7f" or "\ud800" <= c <= "\udfff"))


def _old_ports(body: Body, kinds: dict[str, str]) -> dict[tuple[str, str], str]:
    """The port each run came to, by point and run, as its way was guessed in format 1: away from the nearest source is
    out.
    """
    at: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for run in body.get("runs", []):
        at[run["a"]].append((run["id"], run["b"]))
        at[run["b"]].append((run["id"], run["a"]))
    distance = _old_distances(body, at, [p for p, k in kinds.items() if k in ("well_pump", "mains", "tank")])
    far = float("inf")
    found: dict[tuple[str, str], str] = {}
    for point, runs in at.items():
        kind = kinds.get(point, "junction")
        if kind in _IN_LINE:
            beyond = max(runs, key=lambda r: distance.get(r[1], far))[0]
            others = iter(("in", "out"))
            for run, _ in runs:
                found[point, run] = ("out" if run == beyond else "in") if len(runs) == 2 else next(others, "in")
        elif kind == "three_way":
            near = min(runs, key=lambda r: distance.get(r[1], far))[0]
            sides = iter(("left", "right"))
            for run, _ in runs:
                found[point, run] = "in" if run == near else next(sides, "right")
        else:
            found |= {(point, run): _ONE_PORT[kind] for run, _ in runs}
    return found


def _old_distances(body: Body, at: dict[str, list[tuple[str, str]]], starts: list[str]) -> dict[str, float]:
    spots = {p["id"]: (p["x"], p["y"], p.get("ground", 0.0) - p.get("depth", 0.6)) for p in body.get("points", [])}
    lengths: dict[str, float] = {}
    for run in body.get("runs", []):
        a, b = spots[run["a"]], spots[run["b"]]
        drawn = sum((u - v) ** 2 for u, v in zip(a, b, strict=True)) ** 0.5
        lengths[run["id"]] = run.get("measured_length") or max(drawn, LEAST_LENGTH)
    best = dict.fromkeys(starts, 0.0)
    queue = [(0.0, s) for s in starts]
    heapq.heapify(queue)
    while queue:
        so_far, here = heapq.heappop(queue)
        if so_far > best[here]:
            continue
        for run, there in at[here]:
            further = so_far + lengths[run]
            if further < best.get(there, float("inf")):
                best[there] = further
                heapq.heappush(queue, (further, there))
    return best


def _from_2(body: Body) -> None:
    """Sewer fittings are on gaskets throughout unless a crew says otherwise: what was drawn before has cemented wyes
    and caps, and keeps them, so that what is made of it stays as it was recorded. A pit's riser keeps its computed
    size.
    """
    if any(p["what"]["kind"] in ("drain_inlet", "outfall", "sump") for p in body.get("points", ())):
        body["practices"] = {"drain_fittings": "mixed", **body.get("practices", {})}
    if any(p["what"]["kind"] == "sump" for p in body.get("points", ())):
        body["practices"] = {"pit_riser": "computed", **body.get("practices", {})}


_STEPS: dict[int, Callable[[Body], None]] = {1: _from_1, 2: _from_2}
"""What brings a plan from each format to the next."""
