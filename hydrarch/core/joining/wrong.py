"""The tempting wrong ways: pairs that start to go together and make no sound joint, found by dimension and pitch."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.fittings import End, ends, mating_method
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.joining.stacks import PLASTIC
from hydrarch.core.joining.views import EndView, view

__all__ = ["NEAR", "WrongWay", "splitting", "tempting"]

NEAR = 2.0e-3
"""How near (m) two diameters are for hands to be tempted: a couple of millimetres."""

_MOST = 5
_POLYETHYLENE = frozenset({"barb", "compression", "compression-ips", "compression-cts", "pe-fusion", "rural"})
_GLUED = frozenset({"solvent", "dwv", "sewer", "solvent-metric"})
_PARALLEL_AND_TAPER = frozenset({"bsp", "bspp"})
_HALVES = frozenset({"drip-520", "drip-535", "od-630", "drip-600", "drip-620", "od-620", "od-700", "od-710"})


@dataclass(frozen=True, slots=True)
class WrongWay:
    """A pair that starts to go together and makes no joint: the gap (m, negative where it is too tight) and why."""

    a: EndView
    b: EndView
    gap: float
    why: str


def tempting(start: End, stop: End, units: System = "metric") -> tuple[WrongWay, ...]:
    """The wrong ways near a question: this end with that one, and each with ends of near diameter or the same thread.

    Found by dimension and pitch. The gap is what a caliper would read between the two, on the diameter. Those of the
    two ends asked about come first, then those of their systems, then threads of other worlds, the closest fit first.
    """
    found: dict[frozenset[str], tuple[int, WrongWay]] = {}
    asked = {start.system, stop.system}
    for x in (start, stop):
        for e in (start, stop, *ends().values()):
            key = frozenset((x.name, e.name))
            threads = _threaded(x) and _threaded(e)
            if len(key) < 2 or key in found or mating_method(x, e) is not None or not (e.system in asked or threads):
                continue
            why = _starts_to_go(x, e)
            if why:
                inner, outer = (x, e) if x.enters else (e, x)
                rank = 0 if e in (start, stop) else 1 if e.system in asked else 2
                found[key] = rank, WrongWay(view(inner), view(outer), outer.diameter - inner.diameter, why)
        # a fitting of another size tempts only where two sizes meet, or a nipple where something is threaded
        sizes = _in_toe_nipple(x) if start.size != stop.size or _threaded(start) or _threaded(stop) else []
        if start.size != stop.size:
            sizes += _socket_in_socket(x)
        for w in (*sizes, *_short_collar(x, units)):
            found.setdefault(frozenset((w.a.name, w.b.name)), (1, w))
    order = sorted(found.values(), key=lambda f: (f[0], abs(f[1].gap)))
    return tuple(w for _, w in order[:_MOST])


def _starts_to_go(a: End, b: End) -> str | None:
    """Why hands would try this pair, and what is wrong with it; None where no one would."""
    if a.enters == b.enters or a.least is not None or b.least is not None:
        return None
    if _threaded(a) and _threaded(b):
        return _threads(a, b)
    plain = {a.system, b.system}
    near = abs(a.diameter - b.diameter) <= NEAR
    if plain <= _HALVES and a.size == b.size and len(plain) == 2:
        return "both are called half-inch; one slips off or will not go on: the tubing of makers differs"
    if "barb" in plain and plain & _GLUED and a.size == b.size:
        return "it seems to fit, but cement does nothing to polyethylene"
    if plain & _POLYETHYLENE and plain & {"vinyl"} and near:
        return "the barb goes in, but it is the wrong barb: vinyl barbs are small and slip in polyethylene"
    if (plain & _POLYETHYLENE or "fusion" in plain) and plain & _GLUED and near:
        return "the outsides are near, but cement does nothing to this plastic"
    if plain == {"dwv", "sewer"} and a.size == b.size:
        return "both are called the same, but building drain and sewer pipe differ in outside diameter"
    if plain == {"solvent", "sewer"} and a.size == b.size:
        return "both are called the same, but pressure pipe and sewer hubs differ in outside diameter"
    if plain == {"solvent", "solvent-metric"} and near:
        return "metric pipe and inch sockets come near; cement does not fill the gap, and a tight one never goes home"
    if plain in ({"compression", "fusion"}, {"compression", "pe-fusion"}) and a.size == b.size:
        return "the same outside diameter, but one plastic is fused and the other clamped"
    if plain == {"fusion", "pe-fusion"} and a.size == b.size:
        return "the same outside diameter, but polypropylene and polyethylene do not melt into one"
    if len(plain & _POLYETHYLENE) == 2 and near:
        return "the outsides are near but not the same: the ring bites, and the seal weeps later"
    return None


def _threaded(e: End) -> bool:
    return e.threads_per_inch is not None or e.system == "buttress"


def _threads(a: End, b: End) -> str | None:
    gap = abs(a.diameter - b.diameter)
    if a.system == b.system or gap > NEAR:
        return None
    if "buttress" in (a.system, b.system):
        return "union thread is coarse and seals on an O-ring; on taper thread a turn goes on and nothing seals"
    if {a.system, b.system} == _PARALLEL_AND_TAPER:
        return (
            "it is the same thread and screws in, but parallel in taper: it seals on its washer, and a taper "
            "female has no face for one"
        )
    same = a.threads_per_inch == b.threads_per_inch
    kind = (
        "the same threads to the inch, so it starts to screw" if same else "a near diameter, so a turn or two goes on"
    )
    return f"{kind}; another thread form all the same: it jams or leaks"


def _socket_in_socket(e: End) -> list[WrongWay]:
    """An ordinary socket fitting's outside beside the next size's socket: it seems to fit, loose and with moulded
    marks.
    """
    if e.system != "solvent" or e.gender not in ("socket", "spigot"):
        return []
    sizes = sorted(
        (x for x in ends().values() if x.system == "solvent" and x.gender == "socket"), key=lambda x: x.diameter
    )
    place = [x.size for x in sizes].index(e.size)
    found = []
    for small, large in ((place - 1, place), (place, place + 1)):
        if small < 0 or large >= len(sizes):
            continue
        inner, outer = sizes[small], sizes[large]
        outside = inner.diameter + 2 * pipe("pvc40", inner.size).wall
        if 0 < outer.diameter - outside <= NEAR:
            why = (
                f"the outside of a {inner.size} socket fitting drops into a {outer.size} socket, loose and rough: "
                "use a dual adapter or a bushing"
            )
            found.append(WrongWay(view(inner), view(outer), outer.diameter - outside, why))
    return found


def _in_toe_nipple(e: End) -> list[WrongWay]:
    """A pipe beside the bore of a toe nipple of a larger size: it looks like a dual socket and spigot, and is not."""
    if e.system != "solvent" or e.gender not in ("spigot", "flex"):
        return []
    found = []
    for x in ends().values():
        if x.system != "solvent" or x.gender != "spigot" or x.diameter <= e.diameter:
            continue
        bore = pipe("pvc80", x.size).bore
        if abs(bore - e.diameter) <= NEAR:
            mouth = EndView(
                name=f"toe-nipple:{x.size}",
                words=f"bore of a {x.size} in toe nipple",
                system="solvent",
                gender="mouth",
                size=x.size,
                diameter=bore,
                engagement=x.engagement,
                enters=False,
            )
            why = "a toe nipple is heavy wall: a spigot only, with no tapered socket inside; nothing goes into it"
            found.append(WrongWay(view(e), mouth, bore - e.diameter, why))
    return found


def _short_collar(e: End, units: System) -> list[WrongWay]:
    """Flexible PVC in an ordinary socket: it goes in, and not deep enough."""
    if e.gender != "flex":
        return []
    short = next(x for x in ends().values() if x.name == f"solvent:socket:{e.size}")
    little, enough = (show(depth, "takeoff", units) for depth in (short.engagement, e.engagement))
    why = (
        f"flexible PVC wants a deep socket: an ordinary one covers {little}, a deep one {enough}; put a stub of "
        "rigid pipe and a deep coupling between"
    )
    return [WrongWay(view(e), view(short), short.diameter - e.diameter, why)]


def splitting(a: End, a_material: str, b: End, b_material: str) -> WrongWay | None:
    """A metal male thread that a plastic female would be put on; None where there is no metal male."""
    metal = next(
        (e for e, m in ((a, a_material), (b, b_material)) if e.gender == "male" and m not in (*PLASTIC, "end")), None
    )
    if metal is None or metal.threads_per_inch is None:
        return None
    female = next(
        (e for e in ends().values() if e.system == metal.system and e.gender == "female" and e.size == metal.size), None
    )
    if female is None:
        return None
    mine, theirs = (replace(view(e), words=f"{e.words()} in {m}") for e, m in ((female, "plastic"), (metal, "metal")))
    why = (
        "it screws on and holds for a while: the taper wedges the plastic open and it splits; put plastic male "
        "into metal female"
    )
    return WrongWay(theirs, mine, female.diameter - metal.diameter, why)
