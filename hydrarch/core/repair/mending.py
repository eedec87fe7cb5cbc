"""What broke, and every way to make it whole: how much to cut out, what goes in, how it goes in with the ends as they
are, what to buy, how long it waits.

Between ends that neither move nor turn, only what slides wholly over a pipe goes in. Ends that can be sprung aside take
any fitting, but none that both of them would have to be turned into.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import sqrt
from typing import Literal

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.fittings import end, ends, fitting, joint_depth, pipe_end
from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.catalogue.markets import Market, market
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.catalogue.pipes import Series, pipe, series, series_list
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.stacks import SLIP, UNIONS
from hydrarch.core.joining.ways import Way, join
from hydrarch.core.making.waiting import waits

__all__ = ["Broke", "Damage", "Ends", "Lies", "Mending", "Mendings", "MendWait", "mendings"]

Broke = Literal["nick", "split", "burst", "leak at a joint", "rusted tee", "leaking valve", "hole"]
Lies = Literal["in ground", "in wall", "in ceiling", "in the open"]
Ends = Literal["held", "aside"]

NICK = 6e-3
"""m that a coupling with no stop bridges: a saw cut and the dressing of both ends; from memory."""
SOUND = 0.025
"""m of sound pipe cut away beyond a split or a burst on each side, or one outside diameter where that is more: it runs
further than it is seen; common practice."""
_SAW = 3e-3  # m
_MORE = 2  # joints more than the best: what has more is no way that anyone would choose
_SPREADS: frozenset[Broke] = frozenset({"split", "burst"})
_FITTING: frozenset[Broke] = frozenset({"leak at a joint", "rusted tee", "leaking valve"})
_SLIDING = frozenset({"repair compression", "gripping compression", "universal compression", "shielded band"})
"""Ways of joining whose body slides along the pipe, and back over the gap."""
_TURNS = frozenset({"thread", "hose thread", "union"})
_PLACE: dict[Lies, str] = {
    "in ground": "buried",
    "in wall": "in wall",
    "in ceiling": "in wall",
    "in the open": "on bracket",
}
"""What pipe that lies so is called of its series."""
_TRIED = 12  # pipes looked at for a new piece
_PLACES: dict[Lies, tuple[str, ...]] = {"in ground": ("trench",), "in wall": (), "in ceiling": (), "in the open": ()}


@dataclass(frozen=True, slots=True)
class Damage:
    """What is known of it. `long` (m) is what is broken as it is seen, or what has to come out; a pipe that nobody
    identified has no series.

    `ends` are held, or can be sprung aside by the width of the pipe. `bare` (m) is how much straight clean pipe there
    is beside it on each side, None where nobody looked. `wet` pipe does not run dry. `pressure` (Pa) is what it will
    see, None where that is not known. `temperature` (K) and `humidity` (share of 1) are the coldest and dampest until
    water comes back.
    """

    broke: Broke
    series: str | None
    size: str | None
    long: float = 0.0
    lies: Lies = "in ground"
    ends: Ends = "held"
    bare: float | None = None
    wet: bool = False
    potable: bool = False
    pressure: float | None = None
    temperature: float = 288.15
    humidity: float = 0.5
    units: System = "metric"
    market: Market = "both"


@dataclass(frozen=True, slots=True)
class MendWait:
    """How long (s) until water may come slowly, and in full, by which way of joining; in words."""

    method: str
    fill: float
    full: float
    says: str


@dataclass(frozen=True, slots=True)
class Mending:
    """One way to make it whole.

    `window` (m) is what is cut out between the two ends, `piece` (m) the new pipe cut for it, 0 where one fitting
    bridges it. `bare` (m) is the straight, clean, dressed pipe it takes on a side, and `frees` (m) how far pipe is dug
    or let free on each side to spring it aside. `buy` are fittings by id with their count, `names` the same as they are
    called, `belongs` the small parts its joints want beside them. `first` and `last` the ways at the two ends (the same
    one where there is no piece).
    """

    title: str
    first: Way
    last: Way
    window: float
    piece: float
    pipe: str
    bare: float
    frees: float
    joints: int
    price: float
    buy: tuple[tuple[str, int], ...]
    names: tuple[tuple[str, int], ...]
    belongs: tuple[str, ...]
    steps: tuple[str, ...]
    waits: tuple[MendWait, ...]
    cautions: tuple[Caution, ...]


@dataclass(frozen=True, slots=True)
class Mendings:
    """Every way, the fewest joints first; what is asked before anything is bought; what is said of the pipe, and why
    ways are missing.
    """

    ways: tuple[Mending, ...]
    asks: tuple[str, ...]
    says: tuple[str, ...]


def mendings(what: Damage, most: int = 4) -> Mendings:
    """The best ways to mend `what`, at most so many.

    Raises `Unknown` for a pipe that is not in the catalogue, `HydrarchError` for one whose limits it breaks.
    """
    if what.series is None or what.size is None:
        return Mendings(
            (), ("Measure round the pipe before a fitting is bought: the bench tells which pipe it is.",), ()
        )
    family = series(what.series)
    old = PipeOrEnd(family.id, what.size)
    cut = _cut(what, pipe(family.id, what.size).outside)
    new, about = _replacing(family, what)
    found = sorted(_all(what, old, new, cut), key=lambda m: (m.joints, len(m.buy), m.price, m.window))
    kept = dict[tuple[tuple[str, int], ...], Mending]()
    for mending in found:
        kept.setdefault(mending.buy, mending)
    ways = tuple(m for m in kept.values() if m.joints <= found[0].joints + _MORE)[:most]
    return Mendings(ways, tuple(_asks(what)), (*about, *_of_the_pipe(family, what), *_none(what, family, ways)))


def _cut(what: Damage, outside: float) -> float:
    """How much has to come out (m): what is seen, and for what runs on unseen a margin on each side."""
    margin = max(SOUND, outside) if what.broke in _SPREADS else 0.0
    return max(what.long + 2 * margin, _SAW)


def _replacing(family: Series, what: Damage) -> tuple[PipeOrEnd | None, tuple[str, ...]]:
    """The pipe that the new piece is of: the old one's own where it is sold here, or the nearest in bore that is."""
    size = what.size or ""
    foreign = market(what.market).foreign
    if family.kind != "met" and pipe_end(family.id, size).system not in foreign:
        return PipeOrEnd(family.id, size), ()
    bore = pipe(family.id, size).bore
    near = []
    for other in series_list():
        if other.kind in ("met", "drip") or (other.kind == "drain") != _drains(family):
            continue
        for item in other.sizes:
            sold = pipe_end(other.id, item.size).system not in foreign
            if sold and _PLACE[what.lies] in other.situations and (other.potable or not what.potable):
                near.append((abs(item.bore - bore) + (0.05 if item.bore < 0.95 * bore else 0.0), other.id, item.size))
    held = what.ends == "held"
    tried = [(PipeOrEnd(name, z), pipe(name, z).bore / bore - 1) for _, name, z in sorted(near)[:_TRIED]]
    joined = [(piece, wide, _joined(PipeOrEnd(family.id, size), piece, what, fixed=True)) for piece, wide in tried]
    able = [x for x in joined if x[2]]
    goes = [x for x in able if any(_goes_in(w, held) for w in x[2])]
    for piece, wide, _ in goes or able:
        like = (
            "of the same bore" if abs(wide) < 0.02 else f"{abs(wide):.0%} {'wider' if wide > 0 else 'narrower'} inside"
        )
        return piece, (f"No {family.name} is sold here. The new piece is {piece.words()}, {like}.",)
    return None, (
        f"No {family.name} is sold here, and no other pipe joins to it on both sides: close one gap by itself.",
    )


def _drains(family: Series) -> bool:
    return family.kind == "drain" or family.id in ("fibre", "cast-iron", "copper-dwv")


def _joined(one: PipeOrEnd, two: PipeOrEnd, what: Damage, *, fixed: bool) -> tuple[Way, ...]:
    limits = Constraints(
        no_hot_work=what.wet,
        no_solvent=what.wet,
        potable=what.potable,
        buried=what.lies == "in ground",
        pressure=what.pressure,
        units=what.units,
        market=what.market,
        fixed=fixed,
    )
    try:
        found = join(one, two, limits, most=8).ways
    except HydrarchError:
        if one == two:  # the pipe itself breaks a limit, and that is told
            raise
        return ()
    seen = methods_where("bury", False) if what.lies in ("in wall", "in ceiling") else frozenset()
    return tuple(w for w in found if not any(j.method in seen for j in w.joints))


def _all(what: Damage, old: PipeOrEnd, new: PipeOrEnd | None, cut: float) -> Iterator[Mending]:
    """Every way there is: one fitting in the gap, and two with a piece between."""
    held = what.ends == "held"
    olds = _as_it_lies(old)
    for way in (w for o in olds for w in _joined(o, o, what, fixed=held)):
        if _goes_in(way, held) and cut <= _spans(way) + 1e-9 and _room(way, what):
            yield _mending(what, old, None, way, way, _spans(way), 0.0)
    if new is None:
        return
    news = _as_it_lies(new)
    pairs = [(n, o) for n in news for o in olds]
    closing = [w for n, o in pairs for w in _joined(n, o, what, fixed=True) if _goes_in(w, held) and _room(w, what)]
    if not held:
        closing += [
            w for n, o in pairs for w in _joined(n, o, what, fixed=False) if _goes_in(w, held) and _room(w, what)
        ]
    if not closing:
        return
    free = [] if held else list(_joined(old, new, what, fixed=False)[:1])
    for last in closing:
        for first in free or [last]:
            least = _covers(first) + _covers(last)
            window = max(cut, _gap(first) + _gap(last) + least)
            yield _mending(what, old, new, first, last, window, window - _gap(first) - _gap(last))


def _as_it_lies(thing: PipeOrEnd) -> tuple[PipeOrEnd, ...]:
    """A pipe by the ends it may be cut to: steel is threaded, or left plain for a nut that takes its outside."""
    plain = f"steel:pipe:{thing.size}"
    if thing.series is None or series(thing.series).material != "steel" or plain not in ends():
        return (thing,)
    return thing, PipeOrEnd(thing.series, thing.size, plain)


def _outer(way: Way) -> tuple[str, str]:
    return way.joints[0].method, way.joints[-1].method


def _family(way: Way) -> set[str]:
    return {fitting(name).family for name in way.fittings}


def _slides(way: Way) -> bool:
    """Whether it is one body that slides wholly over a pipe."""
    return len(way.fittings) == 1 and (SLIP in _family(way) or set(_outer(way)) <= _SLIDING)


def _goes_in(way: Way, held: bool) -> bool:
    """Whether it can be put in with the ends as they are: between held ends it slides; else no pipe end has to be
    turned into it, or a union lets each half be turned by itself.
    """
    if held:
        return _slides(way)
    return not set(_outer(way)) & _TURNS or bool(_family(way) & set(UNIONS)) or _slides(way)


def _spans(way: Way) -> float:
    """The gap (m) between two pipe ends that it bridges."""
    return way.length + (NICK if SLIP in _family(way) else 0.0)


def _gap(way: Way) -> float:
    """The gap (m) that is left at one end of a piece: as little as there is to one that slides, else between its
    stops.
    """
    return way.length + (_SAW / 2 if SLIP in _family(way) else 0.0)


def _covers(way: Way) -> float:
    """How far (m) a pipe goes into it at the most, which is as long as a piece must be for it."""
    first, last = way.parts[0], way.parts[-1]
    depths = [
        joint_depth(end(a.name), end(b.name))
        for a, b in ((first.right, way.parts[1].left), (way.parts[-2].right, last.left))
        if a is not None and b is not None
    ]
    return max(depths, default=0.0)


def _bare(way: Way) -> float:
    """Straight clean pipe (m) that it slides onto whole: its two sockets and what it spans."""
    return 2 * _covers(way) + way.length if _slides(way) else 0.0


def _room(way: Way, what: Damage) -> bool:
    return what.bare is None or _bare(way) <= what.bare + 1e-9


def _frees(what: Damage, old: PipeOrEnd) -> float:
    """How far (m) a pipe is let free to spring its end aside by its own width: a beam held at the far end, bent no
    tighter there than its lasting bend, y = L²/(3R).
    """
    if what.ends == "held":
        return 0.0
    family, size = old.pipe()
    outside = pipe(family.id, size).outside
    return sqrt(3 * family.bend_radius * outside * outside)


def _mending(
    what: Damage, old: PipeOrEnd, new: PipeOrEnd | None, first: Way, last: Way, window: float, piece: float
) -> Mending:
    ways = (last,) if new is None else (first, last)
    count = Counter(name for w in ways for name in w.fittings)
    frees = _frees(what, old) if not all(_slides(w) for w in ways) else 0.0
    bare = max(_bare(w) for w in (ways if what.ends == "held" else (last,)))
    names = [f"{n} × {fitting(name).name}" if n > 1 else fitting(name).name for name, n in count.items()]
    title = " and ".join(names) if new is None else f"{', '.join(names)}, with a piece between"
    piece_ = "" if new is None else new.words()
    cautions = {c.code: c for w in ways for c in w.cautions}
    cautions |= {c.code: c for c in cautions_for(*_PLACES[what.lies], *(("pressure",) if what.pressure else ()))}
    mending = Mending(
        title=title,
        first=first,
        last=last,
        window=window,
        piece=piece,
        pipe=piece_,
        bare=bare,
        frees=frees,
        joints=sum(len(w.joints) for w in ways),
        price=sum(w.price for w in ways),
        buy=tuple(sorted(count.items())),
        names=tuple((fitting(name).name, n) for name, n in count.items()),
        belongs=tuple(dict.fromkeys(b for w in ways for b in w.belongs)),
        steps=(),
        waits=tuple(_waits(what, ways, old)),
        cautions=tuple(cautions.values()),
    )
    return replace(mending, steps=tuple(_steps(what, mending)))


def _waits(what: Damage, ways: Sequence[Way], old: PipeOrEnd) -> Iterator[MendWait]:
    """The waits of its joints that set or cool, each method once."""
    size = old.size or ""
    for how in dict.fromkeys(j.method for w in ways for j in w.joints):
        try:
            told = waits(how, size, what.temperature, what.humidity, what.pressure or 6e5, what.units)
        except HydrarchError:
            continue
        usual = next(s for s in told.schools if s.usual)
        if usual.test > 0:
            yield MendWait(how, usual.fill, usual.test, told.says)


def _steps(what: Damage, mending: Mending) -> Iterator[str]:
    """What is done, in order; common practice."""
    units = what.units

    def long(metres: float) -> str:
        return str(show(metres, "cut", units))

    if what.lies == "in ground":
        yield "Dig by hand, with room under the pipe for a hand and the tool. Never lever against it."
    elif what.lies in ("in wall", "in ceiling"):
        yield "Open it until both hands and the tool go in, and look for cables before you cut."
    drain = what.series is not None and _drains(series(what.series))
    stop = (
        "See that nothing above it is used meanwhile."
        if drain
        else "Shut it off and let the pressure down at the lowest tap."
    )
    yield stop + (" What still runs must be led away from the joint." if what.wet else "")
    if mending.frees:
        yield f"Let it free over {show(mending.frees, 'length', units)} on each side: then an end springs aside by its own width."
    yield "Slide a metal sheet behind it where another pipe lies close. Wedge the two apart gently; never pry."
    if what.broke in _FITTING:
        yield (
            "Cut the fitting out with its joints, short of both marks first. Then cut back until "
            f"{long(mending.window)} is out and both ends are good and round."
        )
    elif mending.piece:
        yield (
            "Cut it out short of both marks first and look. "
            f"Cut back to sound, round pipe: {long(mending.window)} in all."
        )
    else:
        yield f"Saw through at the fault and dress both ends: no more than {long(mending.window)} may be missing."
    if mending.piece:
        yield f"Cut the new piece to {long(mending.piece)} and dress it. Try everything dry."
    if mending.bare:
        yield (
            "Clean and mark both pipes. What slides goes wholly onto one side first: that takes "
            f"{long(mending.bare)} of straight pipe."
        )
    if mending.piece and SLIP in _family(mending.last) and what.ends == "held":
        depth = long(_covers(mending.last))
        yield (
            f"Slide a coupling wholly onto each old end, set the piece in line, and mark all four ends {depth} back. "
            "Make one coupling at a time: cement it, and slide it to both marks at once."
        )
    elif mending.last.closes:
        yield mending.last.closes
    elif mending.piece:
        yield "Join the piece to one end first, then spring the other aside and bring it in straight."
    else:
        yield "Join one end, spring the other aside and bring it in straight."
    yield "Keep dirt out of the open ends, most of all upstream of heads and valves."
    if drain:
        yield "Run every fixture above it, and look and feel under every joint. See that it still falls the right way."
    else:
        yield "Let water in slowly at a low tap, look and feel under every joint, and tighten what can be tightened again."
    looked = "with water running" if drain else "under pressure"
    if what.lies == "in ground":
        yield (
            f"Leave it open until it was looked at {looked}. Then work soil under the pipe first, and fill in layers."
        )
    elif what.lies != "in the open":
        yield f"Close up only after it was looked at {looked}, and write down where the joint lies."


def _asks(what: Damage) -> Iterator[str]:
    drain = what.series is not None and _drains(series(what.series))
    if what.pressure is None and not drain:
        yield "What pressure does it see? Without it no fitting is left out for being too weak."
    if what.bare is None:
        yield "How much straight, clean pipe is there beside it? Sliding couplings need it."
    if what.broke in _FITTING and what.long <= 0:
        yield "How long is what has to come out, from one good end to the other?"


def _of_the_pipe(family: Series, what: Damage) -> Iterator[str]:
    """What the craft says of such pipe; common practice."""
    if "thin" in family.name.lower():
        yield (
            "Thin wall: replace more than you see, keep wheels and sun off it. "
            "One that burst from age bursts again beside the mend."
        )
    if family.material == "steel":
        yield (
            "Old threads: brush them, and hold what stays with a back-up wrench. "
            "A thread that tears off: cut back to sound pipe."
        )
    if family.material in ("lead", "fibre"):
        yield "Such pipe is replaced, not mended, where that can be done: a mend here is for now."
    if what.broke == "burst":
        yield "Find out why it burst: frost, wheels, a surge or age. The mend does not take that away."


def _none(what: Damage, family: Series, ways: Sequence[Mending]) -> Iterator[str]:
    if ways:
        return
    if what.ends == "held":
        bare = "" if what.bare is None else " in that much bare pipe"
        yield (
            f"Nothing slides over {family.name} between held ends{bare}. "
            "Free it until an end springs aside by its own width, and say so."
        )
    else:
        yield "Nothing in the catalogue does that under these limits. Lift one, or cut back to where other pipe begins."
