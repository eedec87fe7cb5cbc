"""The bench's question "join this to that": ranked honest ways, the tempting wrong ways, and what to do where none is."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hydrarch.core.catalogue.fittings import End, Fitting, end, ends, fittings, mating_method, pipe_ends
from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.catalogue.pipes import pipe, pressure_rating, series, series_list
from hydrarch.core.errors import HydrarchError, Unknown
from hydrarch.core.joining.search import Stack, find_stacks
from hydrarch.core.units import show, size_is_metric, size_value

__all__ = [
    "Answer",
    "Constraints",
    "EndView",
    "JointView",
    "PartView",
    "Thing",
    "Way",
    "WrongWay",
    "branch",
    "join",
    "read_things",
    "tempting",
]

HOT = frozenset({"socket fusion", "barb and clamp"})
SOLVENT = frozenset({"solvent weld"})
UNDOES = frozenset({"thread", "compression", "washer thread", "union", "shielded band"})
NEAR = 2.0e-3
"""How near (m) two diameters are for hands to be tempted: a couple of millimetres."""

_TOOLS = {
    "solvent weld": "saw, reamer, primer, cement", "thread": "tape or paste, two wrenches",
    "barb and clamp": "cutter, heat, hand driver", "compression": "cutter, strap wrench", "socket fusion": "fusion iron, cutter",
    "washer thread": "hands", "union": "hands", "push barb": "hot water", "shielded band": "hand driver",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Thing:
    """What is to be joined: a cut pipe (series and size), or an open end by its name."""

    series: str | None = None
    size: str | None = None
    end: str | None = None

    def ends(self) -> tuple[End, ...]:
        """The ends it offers; raises `Unknown` or `HydrarchError` with what is missing."""
        if self.end is not None:
            return (end(self.end),)
        if self.series is None or self.size is None:
            raise HydrarchError("name a pipe by series and size, or an end")
        offered = pipe_ends(self.series, self.size)
        if not offered:
            raise HydrarchError(f"no fitting of ours joins {series(self.series).name} {self.size}")
        return offered

    def words(self) -> str:
        """How a crew would say it."""
        if self.end is not None:
            return end(self.end).words()
        return f"{series(self.series or '').short} {self.size} pipe"


@dataclass(frozen=True, slots=True)
class Constraints:
    """What the crew cannot or will not do. `pressure` (Pa) and `temperature` (K) are checked against the pipes."""

    serviceable: bool = False
    no_hot_work: bool = False
    no_solvent: bool = False
    pressure: float | None = None
    temperature: float = 293.15
    at_hand: tuple[str, ...] | None = None

    def barred(self) -> frozenset[str]:
        """The methods that are out."""
        return (HOT if self.no_hot_work else frozenset()) | (SOLVENT if self.no_solvent else frozenset())


@dataclass(frozen=True, slots=True)
class EndView:
    """An end for drawing: words, system, gender, and true sizes (m)."""

    name: str
    words: str
    system: str
    gender: str
    diameter: float
    engagement: float


@dataclass(frozen=True, slots=True)
class PartView:
    """A part of a way: its two ends in the order of the way, and the length between its stops (m)."""

    fitting: str | None
    name: str
    material: str
    left: EndView | None
    right: EndView | None
    length: float


@dataclass(frozen=True, slots=True)
class JointView:
    """One joint of a way: its method, what goes into what, and the tools it takes."""

    method: str
    says: str
    tools: str
    can_undo: bool


@dataclass(frozen=True, slots=True)
class Way:
    """An honest way: parts from one thing to the other, its joints, laid length (m), and why it ranks where it does."""

    parts: tuple[PartView, ...]
    joints: tuple[JointView, ...]
    length: float
    can_undo: bool
    why: str
    cautions: tuple[Caution, ...]


@dataclass(frozen=True, slots=True)
class WrongWay:
    """A pair that starts to go together and makes no joint: the gap (m, negative where it is too tight) and why."""

    a: EndView
    b: EndView
    gap: float
    why: str


@dataclass(frozen=True, slots=True)
class Answer:
    """All the bench says to one question. With no way, `nearest` names ends that can be joined instead."""

    start: str
    stop: str
    ways: tuple[Way, ...]
    wrong: tuple[WrongWay, ...]
    says: str
    nearest: tuple[str, ...]
    weakest: float | None


def join(start: Thing, stop: Thing, constraints: Constraints | None = None, most: int = 5) -> Answer:
    """The best ways from one thing to another, the tempting wrong ones, and what to do where there is none.

    Raises `Unknown` for a pipe or end that is not in the catalogue, `HydrarchError` for constraints no pipe meets.
    """
    limits = constraints or Constraints()
    weakest = _weakest(start, stop, limits)
    at_hand = frozenset(limits.at_hand) if limits.at_hand is not None else None
    found: list[Stack] = []
    for a in start.ends():
        for b in stop.ends():
            found += find_stacks(a.name, b.name, 12, limits.barred(), at_hand)
    if limits.serviceable:
        found = [s for s in found if any(mating_method(*pair) in UNDOES for pair in s.ends())]
    found.sort(key=lambda s: (*s.cost(), [x.fitting.id for x in s.steps]))
    ways = tuple(_way(s, n, found, start, stop) for n, s in enumerate(found[:most]))
    wrong = tempting(start.ends()[0], stop.ends()[0])
    says, nearest = ("", ()) if ways else _no_way(start, stop, limits)
    return Answer(start.words(), stop.words(), ways, wrong, says, nearest, weakest)


def _weakest(start: Thing, stop: Thing, limits: Constraints) -> float | None:
    rated = [pressure_rating(pipe(t.series, t.size), limits.temperature) for t in (start, stop) if t.series and t.size]
    weakest = min(rated, default=None)
    if weakest is not None and limits.pressure is not None and weakest < limits.pressure:
        have, want = (show(p, "pressure") for p in (weakest, limits.pressure))
        raise HydrarchError(
            f"the weaker pipe carries {have} at this temperature, less than the {want} asked: choose a heavier one"
        )
    return weakest


def _view(e: End) -> EndView:
    return EndView(e.name, e.words(), e.system, e.gender, e.diameter, e.engagement)


def _material(thing: Thing) -> str:
    return series(thing.series).material if thing.series else "end"


def _way(stack: Stack, rank: int, found: list[Stack], start: Thing, stop: Thing) -> Way:
    parts = [PartView(None, start.words(), _material(start), None, _view(stack.start), 0.0)]
    for s in stack.steps:
        into, out = s.fitting.ports[s.into].end, s.fitting.ports[s.out].end
        parts.append(PartView(s.fitting.id, s.fitting.name, s.fitting.material, _view(into), _view(out), s.length))
    parts.append(PartView(None, stop.words(), _material(stop), _view(stack.stop), None, 0.0))
    joints = []
    for n, (a, b) in enumerate(stack.ends()):
        method = mating_method(a, b) or ""
        joints.append(JointView(method, f"{parts[n].name} into {parts[n + 1].name}", _TOOLS.get(method, ""), method in UNDOES))
    cautions = cautions_for(*{j.method for j in joints})
    return Way(tuple(parts), tuple(joints), stack.length, any(j.can_undo for j in joints), _why(stack, rank, found), cautions)


def _why(stack: Stack, rank: int, found: list[Stack]) -> str:
    if rank == 0:
        return (
            "fewest joints"
            if len(found) == 1 or stack.joints < found[1].joints
            else "fewest joints, and straightest through the sizes"
        )
    more = stack.joints - found[0].joints
    if stack.splits():
        return "threads a plastic female over a metal male, which splits: last resort"
    if more > 0:
        return f"{more} joint{'s' if more > 1 else ''} more than the best"
    if stack.detour() > found[0].detour():
        return "as few joints, but it strays through other sizes"
    return f"as few joints, {show(stack.length - found[0].length, 'takeoff')} longer"


def _no_way(start: Thing, stop: Thing, limits: Constraints) -> tuple[str, tuple[str, ...]]:
    if limits != Constraints(pressure=limits.pressure, temperature=limits.temperature) and any(
        find_stacks(a.name, b.name, 1) for a in start.ends() for b in stop.ends()
    ):
        return "No honest way is left under these limits; lift one of them.", ()
    reach = [e for e in ends().values() if any(find_stacks(a.name, e.name, 1) for a in start.ends())]
    wanted = stop.ends()[0]
    same = [e for e in reach if abs(size_value(e.size) - size_value(wanted.size)) < 1e-9 and e.system != start.ends()[0].system]
    nearest = tuple(dict.fromkeys(e.words() for e in same))[:4]
    return f"No honest way joins {start.words()} to {stop.words()}: no fitting of ours spans them.", nearest


def tempting(start: End, stop: End) -> tuple[WrongWay, ...]:
    """The wrong ways near a question: this end with that one, and each with ends of near diameter or the same thread.

    Found by dimension and pitch. The gap is what a caliper would read between the two, on the diameter.
    """
    found: dict[tuple[str, str], WrongWay] = {}
    pairs = [(start, stop)] + [(x, e) for x in (start, stop) for e in ends().values() if e.system in (start.system, stop.system)]
    for a, b in pairs:
        if a.name == b.name or mating_method(a, b) is not None:
            continue
        why = _starts_to_go(a, b)
        if why and (b.name, a.name) not in found:
            inner, outer = (a, b) if _enters(a) else (b, a)
            found[a.name, b.name] = WrongWay(_view(a), _view(b), outer.diameter - inner.diameter, why)
    for x in (start, stop):
        found |= {(w.a.name, w.b.name): w for w in _socket_in_socket(x)}
    order = sorted(found.values(), key=lambda w: abs(w.gap))
    return tuple(order[:4])


def _enters(e: End) -> bool:
    """Whether an end goes inside its mate."""
    return e.gender in ("male", "spigot", "pipe", "tube", "insert")


def _starts_to_go(a: End, b: End) -> str | None:
    if _enters(a) == _enters(b):
        return None
    gap = abs(a.diameter - b.diameter)
    threads = a.threads_per_inch is not None and b.threads_per_inch is not None
    if threads and a.system != b.system and gap <= NEAR:
        same = a.threads_per_inch == b.threads_per_inch
        kind = "the same threads to the inch, so it starts to screw" if same else "a near diameter, so a turn or two goes on"
        return f"{kind}; another thread form all the same: it jams or leaks"
    if threads:
        return None
    drip = a.system.startswith("drip") and b.system.startswith("drip")
    if drip and a.size == b.size and a.system != b.system:
        return "both are called half-inch; one slips off or will not go on: the tubing of makers differs"
    plain = {a.system, b.system}
    if "barb" in plain and plain & {"solvent", "dwv", "sewer"} and a.size == b.size:
        return "it seems to fit, but cement does nothing to polyethylene"
    if plain & {"compression", "barb", "fusion"} and plain & {"solvent"} and gap <= NEAR:
        return "the outsides are near, but cement does nothing to this plastic"
    if plain == {"dwv", "sewer"} and a.size == b.size:
        return "both are called the same, but building drain and sewer pipe differ in outside diameter"
    if plain == {"compression", "fusion"} and a.size == b.size:
        return "the same outside diameter, but one plastic is fused and the other clamped"
    return None


def _socket_in_socket(e: End) -> list[WrongWay]:
    """An ordinary socket fitting's outside beside the next size's socket: it seems to fit, loose and with moulded marks."""
    if e.system != "solvent" or e.gender != "socket":
        return []
    sizes = sorted((x for x in ends().values() if x.system == "solvent" and x.gender == "socket"), key=lambda x: x.diameter)
    place = [x.name for x in sizes].index(e.name)
    found = []
    for small, large in ((place - 1, place), (place, place + 1)):
        if small < 0 or large >= len(sizes):
            continue
        inner, outer = sizes[small], sizes[large]
        outside = inner.diameter + 2 * pipe("pvc40", inner.size).wall
        if 0 < outer.diameter - outside <= NEAR:
            why = f"the outside of a {inner.size} socket fitting drops into a {outer.size} socket, loose and rough: use a dual adapter or a bushing"
            found.append(WrongWay(_view(inner), _view(outer), outer.diameter - outside, why))
    return found


_MATERIAL_WORDS = {
    "pvc": "pvc40", "sch 40": "pvc40", "schedule 40": "pvc40", "sch40": "pvc40", "sch 80": "pvc80", "schedule 80": "pvc80",
    "sch80": "pvc80", "sch 120": "pvc120", "class 200": "pvc-sdr21", "thin wall": "pvc-sdr21", "poly": "pe-sidr7",
    "sidr": "pe-sidr7", "polyethylene": "pe-sidr7", "ppr": "ppr-s2.5", "pe100": "pe100-sdr11", "mdpe": "pe100-sdr11",
    "galvanized": "galv40", "galv": "galv40", "copper": "copper-l", "sewer": "sewer-sdr35", "sdr 35": "sewer-sdr35", "dwv": "dwv40",
}  # fmt: skip
_END_WORDS = {
    ("npt", "female"): "npt:female", ("npt", "male"): "npt:male", ("bsp", "female"): "bsp:female", ("bsp", "male"): "bsp:male",
    ("hose", "female"): "hose:female", ("hose", "male"): "hose:male", ("socket", ""): "solvent:socket", ("spigot", ""): "solvent:spigot",
}  # fmt: skip
_SIZE = re.compile(r"(\d+-\d+/\d+|\d+/\d+|\d+)\s*(mm|in|inch|\")?")


def read_things(text: str) -> tuple[Thing, Thing]:
    """Read "1 in sch 40 pipe to 1 in SIDR poly" as two things; raises `HydrarchError` saying which half is not understood."""
    halves = re.split(r"\s+(?:to|into|onto)\s+", text.strip().lower())
    if len(halves) != 2:
        raise HydrarchError("say it as 'this to that', for example '1 in sch 40 pipe to 1 in poly'")
    one, two = (_thing(h) for h in halves)
    return one, two


def _thing(text: str) -> Thing:
    match = _SIZE.search(text)
    if match is None:
        raise HydrarchError(f"'{text}' names no size; write it as 3/4 in or 32 mm")
    size, rest = match.group(1), text[: match.start()] + text[match.end() :]
    for (system, gender), name in _END_WORDS.items():
        if system in rest and gender in rest:
            return Thing(end=_known_end(f"{name}:{size}"))
    named = [s.id for s in series_list() if s.id in text.replace(" ", "-") or s.short.lower() in text]
    words = sorted((w for w in _MATERIAL_WORDS if w in rest), key=len, reverse=True)
    found = named[0] if named else _MATERIAL_WORDS[words[0]] if words else None
    if found is None:
        raise HydrarchError(f"'{text}' names no pipe or end we know; say sch 40, poly, PPR, NPT female and so on")
    if size_is_metric(size) and found.startswith("pe-sidr"):
        found = "pe100-sdr11"
    pipe(found, size)
    return Thing(series=found, size=size)


def _known_end(name: str) -> str:
    if name not in ends():
        raise Unknown("end", name, ends())
    return name


def branch(run_size: str, branch_size: str) -> tuple[tuple[str, int], ...]:
    """Ways to take a PVC branch off a line, as (what, joints) with the fewest joints first: reducing tee, tee and bushing."""
    ways: list[tuple[str, int]] = []
    for part in fittings().values():
        if (
            part.family == "tee"
            and len(part.ports) == 3
            and [p.end.name for p in part.ports[:2]] == [f"solvent:socket:{run_size}"] * 2
        ):
            stacks = find_stacks(part.ports[2].end.name, f"solvent:spigot:{branch_size}", 1)
            if stacks:
                ways.append((_branch_words(part, stacks[0]), 2 + stacks[0].joints))
    return tuple(sorted(ways, key=lambda w: w[1])[:5])


def _branch_words(part: Fitting, stack: Stack) -> str:
    return " + ".join([part.name, *(s.fitting.name for s in stack.steps)])
