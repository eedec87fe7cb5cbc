"""What of a derivation each stage of the page shows: a function a part, with the stages that show it and the room it
comes from. The API's answers and the page's types follow from these.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from hydrarch.core.base.problems import Stage
from hydrarch.core.building.hot_water import House
from hydrarch.core.burial.trench import Trench
from hydrarch.core.catalogue.guidance import Caution
from hydrarch.core.changeover.rehearsal import Changeover
from hydrarch.core.circulation.overflow import stands_open
from hydrarch.core.circulation.rounds import Rounds
from hydrarch.core.commissioning.inverts import WantedInvert
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.components.basins import Basin, Standpipe
from hydrarch.core.coverage.emission import Emission, emitter_places
from hydrarch.core.coverage.landing import Coverage
from hydrarch.core.coverage.wire import Wire
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.derivation.chain import STAGES, Derivation
from hydrarch.core.drainage.ends import AtDrain
from hydrarch.core.hydraulics.drain_flow import DrainRun
from hydrarch.core.hydraulics.flow import Flow, OutletFlow
from hydrarch.core.joining.assembled import Joint, Part
from hydrarch.core.joining.dripways import Beside, ways_beside
from hydrarch.core.making.worklist import Glueup, Task
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.loops import closes_a_loop
from hydrarch.core.site.layout import Layout, Line
from hydrarch.core.site.systems import System
from hydrarch.core.sizing.hammer import Stopped
from hydrarch.core.sizing.select import Choice

__all__ = ["PARTS", "Lines", "ShownPart", "Sized", "part", "parts_of", "rooms_of"]

Found = TypeVar("Found")


@dataclass(frozen=True, slots=True)
class ShownPart:
    """A part of a stage's answer: what it is called there, the stages that show it, what gives it, and the room that
    has to be worked out for it besides those of the stages so far ("" for none).
    """

    name: str
    stages: tuple[Stage, ...]
    work: Callable[[Derivation], Any]
    room: str


PARTS: dict[str, ShownPart] = {}
"""Every part by its name, in the order they are written."""


def part(*stages: Stage, room: str = "") -> Callable[[Callable[[Derivation], Found]], Callable[[Derivation], Found]]:
    """Make a function a part of what these stages show. Its name (without a leading underscore) and what it gives are
    those of the part.
    """

    def declared(work: Callable[[Derivation], Found]) -> Callable[[Derivation], Found]:
        name = work.__name__.removeprefix("_")
        PARTS[name] = ShownPart(name, stages, work, room)
        return work

    return declared


def parts_of(stage: Stage) -> tuple[ShownPart, ...]:
    """What a stage shows."""
    return tuple(p for p in PARTS.values() if stage in p.stages)


def rooms_of(stage: Stage) -> tuple[str, ...]:
    """The rooms that are worked out for a stage: its own and those of the stages before it, and what its parts are made
    of.
    """
    upto = STAGES[: STAGES.index(stage) + 1]
    wanted = [name for name, of in Derivation.ROOMS.items() if of in upto]
    return tuple(dict.fromkeys([*wanted, *(p.room for p in parts_of(stage) if p.room)]))


@dataclass(frozen=True, slots=True)
class DrawnWater:
    """A body of water as it is drawn (m): corners of its rim and of its floor, east and north, and how high rim, water
    and floor are.

    `upright` are the standpipes in it: east, north, foot and open end.
    """

    rim: tuple[tuple[float, float], ...]
    floor: tuple[tuple[float, float], ...]
    top: float
    level: float
    bottom: float
    upright: tuple[tuple[float, float, float, float], ...]


@dataclass(frozen=True, slots=True)
class Lines:
    """Every run as it is laid out, the end of each its water comes from ("a", "b", or "" where that is not known), and
    its series.

    `emitters` are where those of each drip row are (m, east, north, up); `loops` says whether water comes to some place
    by two ways.
    """

    lines: dict[str, Line]
    comes_by: dict[str, str]
    series: dict[str, str]
    systems: tuple[System, ...]
    emitters: dict[str, tuple[tuple[float, float, float], ...]]
    loops: bool
    waters: dict[str, DrawnWater]


@dataclass(frozen=True, slots=True)
class Sized:
    """The pipe of every run, and the flows that follow by scenario."""

    choices: dict[str, Choice]
    flows: dict[str, Flow]


@part(*STAGES)
def _lines(d: Derivation) -> Lines:
    """Where every run lies."""
    lay = d.layout
    return Lines(
        lay.lines,
        {run: _comes_by(lay, line) for run, line in lay.lines.items()},
        {run.id: d.systems.series_of(d.plan, run) for run in d.plan.runs},
        d.systems.found,
        emitter_places(d.plan, lay),
        closes_a_loop(d.plan),
        _waters(d.plan),
    )


@part("survey")
def _cautions(d: Derivation) -> tuple[Caution, ...]:
    """What can hurt someone there."""
    return d.site_cautions


@part("size", "join", "cut", "make", "prove", "keep")
def _sizes(d: Derivation) -> Sized:
    """The pipe of every run."""
    return Sized(d.sizes.choices, d.sizes.flows)


@part("size")
def _drains(d: Derivation) -> tuple[DrainRun, ...]:
    """What runs by its fall."""
    return d.drains


@part("size", room="drained_to")
def _drained_to(d: Derivation) -> tuple[AtDrain, ...]:
    """What is said of where drains begin and end."""
    return d.drained_to.notes


@part("make", room="inverts")
def _inverts(d: Derivation) -> dict[str, WantedInvert]:
    """What joints of drains are laid to."""
    return d.inverts


@part("size")
def _surges(d: Derivation) -> dict[str, Stopped]:
    """What a sudden stop does."""
    return d.surges


@part("size")
def _watered(d: Derivation) -> dict[str, Coverage]:
    """Where the water of heads lands."""
    return d.watered


@part("size")
def _dripped(d: Derivation) -> dict[str, dict[str, Emission]]:
    """What drip rows pass."""
    return d.dripped


@part("size")
def _shut(d: Derivation) -> dict[str, dict[str, OutletFlow]]:
    """What outlets that are shut would give."""
    return d.shut


@part("size")
def _rounds(d: Derivation) -> Rounds:
    """What goes round in bodies of water."""
    return d.rounds


@part("size")
def _house(d: Derivation) -> House:
    """What runs together in a house, and the wait for hot water."""
    return d.house


@part("size")
def _wire(d: Derivation) -> Wire | None:
    """Control wire."""
    return d.wire


@part("join", "make", "prove", "keep")
def _joints(d: Derivation) -> tuple[Joint, ...]:
    """Every joint."""
    return d.assembly.joints


@part("join", "cut")
def _parts(d: Derivation) -> tuple[Part, ...]:
    """Every fitting and device."""
    return d.assembly.parts


@part("join")
def _tubing(d: Derivation) -> tuple[Beside, ...]:
    """Ways to feed what stands beside drip tubing."""
    return ways_beside(d.assembly)


@part("join", "cut", room="bill")
def _bill(d: Derivation) -> tuple[BillRow, ...]:
    """What is bought."""
    return d.bill


@part("cut", room="trench")
def _trench(d: Derivation) -> Trench:
    """What is dug, and what goes back."""
    return d.trench


@part("cut", room="cuts")
def _cuts(d: Derivation) -> CutList:
    """What is cut."""
    return d.cuts


@part("make", room="work")
def _work(d: Derivation) -> tuple[Task, ...]:
    """What is made, in order."""
    return d.work.tasks


@part("make", room="work")
def _groups(d: Derivation) -> tuple[Glueup, ...]:
    """What is made in one go."""
    return d.work.groups


@part("make", room="changed_over")
def _changeover(d: Derivation) -> Changeover | None:
    """The changeover from an old service to a new one, step by step."""
    return d.changed_over


@part("make", "prove", "keep", room="sections")
def _sections(d: Derivation) -> tuple[Section, ...]:
    """What is tested alone."""
    return d.sections


def _waters(plan: Plan) -> dict[str, DrawnWater]:
    found = {}
    for p in plan.points:
        if isinstance(p.what, Basin):
            shape = shape_of(p)
            floor = tuple(
                (p.x + (x - p.x) * shape.share**0.5, p.y + (y - p.y) * shape.share**0.5) for x, y in shape.corners
            )
            upright = tuple(
                (s.x, s.y, s.level, stands_open(s))
                for s in plan.points
                if isinstance(s.what, Standpipe) and s.what.waters is not None and s.what.waters.basin == p.id
            )
            found[p.id] = DrawnWater(
                shape.corners, floor, shape.rim, shape.rim - p.what.below_rim, shape.bottom, upright
            )
    return found


def _comes_by(lay: Layout, line: Line) -> str:
    a, b = (lay.away(p) for p in (line.a, line.b))
    if lay.systems.drain(line.run):
        a, b = b, a
    return "a" if a < b else "b" if b < a else ""
