"""The chain: from a plan to everything that follows from it, room by room, each worked out once when it is asked for.

A room is a property of `Derivation` marked with the stage it belongs to. What it cannot work out is a `Problem` at its
place; a room that fails says so and gives what it gives for nothing drawn, and the rooms beyond go on.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Generic, TypeVar, get_args, overload

from hydrarch.core.base.messages import said_more, tell
from hydrarch.core.base.problems import STAGE_TITLES, Problem, Stage, declare
from hydrarch.core.base.progress import Late, TookTooLong, never
from hydrarch.core.building.hot_water import House, house, scald_problems
from hydrarch.core.burial.crossings import crossing_problems
from hydrarch.core.burial.ovality import oval_problems
from hydrarch.core.burial.trench import Trench, trench
from hydrarch.core.catalogue.guidance import Caution, cautioned_at, cautions_for
from hydrarch.core.catalogue.pipes import Pipe, pipe_called, series
from hydrarch.core.changeover.rehearsal import Changeover, changeover
from hydrarch.core.circulation.clogged import clogged_problems
from hydrarch.core.circulation.round_problems import drawn_rounds
from hydrarch.core.circulation.rounds import NO_ROUNDS, Rounds, rounds
from hydrarch.core.commissioning.inverts import WantedInvert, wanted_inverts
from hydrarch.core.commissioning.limits import part_rating_problems
from hydrarch.core.commissioning.readiness import Readiness, readiness
from hydrarch.core.commissioning.sections import Section, sections
from hydrarch.core.commissioning.thrust import thrust_problems
from hydrarch.core.components.equipment import Equipment
from hydrarch.core.coverage.coverage_problems import drawn_problems, flowing_problems
from hydrarch.core.coverage.emission import Emission, emissions
from hydrarch.core.coverage.landing import Coverage, coverages
from hydrarch.core.coverage.wire import Wire, wire
from hydrarch.core.cutting.bill import bill, price_problems
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.cutting.cuts import CutList, cut
from hydrarch.core.cutting.elbowroom import room_problems
from hydrarch.core.cutting.shop import FittingBody, PlacedFitting, bodies, meeting_problems, placed_fittings
from hydrarch.core.drainage.ends import Drainage, drain_ends
from hydrarch.core.drainage.greywater import uneven_problems
from hydrarch.core.editing.fixes import MENDS, does
from hydrarch.core.editing.grading import off_rule_problems
from hydrarch.core.hydraulics.air import air_problems
from hydrarch.core.hydraulics.drain_flow import DrainRun, drain_problems, drain_runs
from hydrarch.core.hydraulics.flow import FlowModel, OutletFlow, models
from hydrarch.core.hydraulics.shut import would_give
from hydrarch.core.hydraulics.suction import intake_problems
from hydrarch.core.joining.assembled import Assembly
from hydrarch.core.joining.assembly import Joiner
from hydrarch.core.joining.dripways import half_inch_problems
from hydrarch.core.making.steps import step_problems, weather_problems
from hydrarch.core.making.worklist import WorkOrder, worklist
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.log import Log
from hydrarch.core.site.backflow import backflow_problems
from hydrarch.core.site.causes import folded
from hydrarch.core.site.clearances import mark_problems
from hydrarch.core.site.cold import cold_problems
from hydrarch.core.site.fitness import fitness_problems
from hydrarch.core.site.hot import hot_problems
from hydrarch.core.site.layout import Layout, layout
from hydrarch.core.site.movement import movement_problems
from hydrarch.core.site.systems import Systems, systems
from hydrarch.core.sizing.expansion import expansion_problems
from hydrarch.core.sizing.hammer import Stopped, all_surges, hammer_problems
from hydrarch.core.sizing.select import Sizes, pick_sizes
from hydrarch.core.wells.hole import vessel_problems
from hydrarch.core.wells.string import string_problems

__all__ = ["STAGES", "Derivation", "Derived", "Drains", "Settled", "derive", "made_of", "where_it_stands"]

_log = logging.getLogger("hydrarch")
declare("size", "sizes-not-settled")
declare("survey", "room-failed", "took-too-long", "left-out", holds=True)

STAGES: tuple[Stage, ...] = get_args(Stage)
HOT, FROST = 316.15, 273.15  # K: water that scalds, air that freezes
_FREELY, _FREELY_OF_MANY, _ROUNDS = 3, 2, 10
"""Rounds in which sizes may become smaller again, and rounds in all."""

Found = TypeVar("Found")


class _Room(Generic[Found]):
    """A property that is worked out once, and falls back where it fails."""

    def __init__(
        self, work: Callable[[Any], Found], stage: Stage, empty: Callable[[Any], Found] | None, after: str
    ) -> None:
        self.work, self.stage, self.empty, self.after = work, stage, empty, after
        self.__doc__ = work.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        self.name = name
        owner.ROOMS = {**owner.ROOMS, name: self.stage}  # type: ignore[attr-defined]

    @overload
    def __get__(self, derivation: None, owner: type) -> _Room[Found]: ...
    @overload
    def __get__(self, derivation: Derivation, owner: type) -> Found: ...
    def __get__(self, derivation: Derivation | None, owner: type) -> Found | _Room[Found]:
        if derivation is None:
            return self
        if self.name not in derivation.__dict__:
            derivation.__dict__[self.name] = self._worked_out(derivation)
        return derivation.__dict__[self.name]  # type: ignore[no-any-return]

    def _worked_out(self, derivation: Derivation) -> Found:
        if self.after and self.empty is not None:
            getattr(derivation, self.after)
            if self.after in derivation.fallen:  # what that is about was told there
                return self.empty(derivation)
        try:
            return self.work(derivation)
        except TookTooLong as error:
            if self.empty is None:
                raise
            derivation.failed.append(tell("took-too-long", error.where, part=error.part))
        except Exception as error:
            if self.empty is None or derivation.strict:
                raise
            _log.exception("the room %s broke down", self.name)
            derivation.failed.append(
                tell("room-failed", "", stage=STAGE_TITLES[self.stage], error=f"{type(error).__name__}: {error}")
            )
        derivation.fallen.add(self.name)
        return self.empty(derivation)


def room(
    stage: Stage, empty: Callable[[Any], Any] | None = None, after: str = ""
) -> Callable[[Callable[[Any], Found]], _Room[Found]]:
    """Make a property a room of a stage.

    What it gives may have `problems`; `empty` is what it gives where it fails.

    It gives that, too, where the room it comes `after` broke down.
    """
    return lambda work: _Room(work, stage, empty, after)


@dataclass(frozen=True, slots=True)
class Settled:
    """Sizes and fittings that agree, after so many rounds, and what their search found wrong."""

    sizes: Sizes
    pipes: dict[str, Pipe]
    assembly: Assembly
    rounds: int
    problems: tuple[Problem, ...]


@dataclass(frozen=True, slots=True)
class Drains:
    """The drains of a plan, and what is wrong with them."""

    runs: tuple[DrainRun, ...]
    problems: tuple[Problem, ...]


@dataclass(frozen=True, slots=True)
class Checked:
    """What a room of checks alone found wrong."""

    problems: tuple[Problem, ...]


_NO_SIZES = Sizes({}, {}, ())
_NOTHING_JOINED = Assembly(parts=(), joints=(), taken={}, bends=(), lengths=(), minor={}, problems=())


class Derivation:
    """All that follows from one plan, worked out as it is asked for.

    Threads that share one see to it that one works at a time.

    `late` tells when the time given is over: then what is under way says which part did not come to an end. `strict`
    lets a room that fails raise, for tests.
    """

    ROOMS: ClassVar[dict[str, Stage]] = {}
    STRICT: ClassVar[bool] = False
    """Whether a room that fails raises, unless it is said: set by tests."""

    def __init__(self, plan: Plan, late: Late = never, *, strict: bool | None = None) -> None:
        self.plan, self.late, self.strict = plan, late, self.STRICT if strict is None else strict
        self.failed: list[Problem] = []
        self.fallen: set[str] = set()
        self._told: dict[tuple[Stage, int], tuple[Problem, ...]] = {}

    @room("survey")
    def systems(self) -> Systems:
        """What waters there are, and what hangs on each."""
        return systems(self.plan)

    @room("survey")
    def layout(self) -> Layout:
        """The plan in space."""
        return layout(self.plan, self.systems)

    @room("survey", lambda d: None)
    def wire(self) -> Wire | None:
        """Control wire to the zones' valves."""
        return wire(self.plan, self.layout)

    @room("survey", lambda d: Checked(()))
    def guarded(self) -> Checked:
        """What hangs on drinking water unguarded, drip whose head or tubing is not as it should be, and zones that are
        not.
        """
        plan, lay = self.plan, self.layout
        return Checked((*backflow_problems(plan, lay), *drawn_problems(plan, lay, self.wire), *drawn_rounds(plan, lay)))

    @room("survey", lambda d: Checked(()))
    def fit(self) -> Checked:
        """Pipe that is unfit for where it lies or what it carries, or comes too near to what is fixed on the site."""
        return Checked(
            (
                *fitness_problems(self.plan, self.layout),
                *mark_problems(self.plan, self.layout),
                *hot_problems(self.plan, self.layout),
                *scald_problems(self.plan, self.layout),
            )
        )

    @room("survey", lambda d: Drains((), ()))
    def drained(self) -> Drains:
        """The drains that run by their fall, and what is wrong with them."""
        found = drain_runs(self.plan, self.layout)
        return Drains(tuple(found.values()), drain_problems(self.plan, self.layout, found))

    @room("survey", lambda d: Drainage((), ()))
    def drained_to(self) -> Drainage:
        """What drains take in, and where they end."""
        found = drain_ends(self.plan, self.layout, self.drains)
        return replace(found, problems=(*found.problems, *off_rule_problems(self.plan, self.layout)))

    @room("size", lambda d: ())
    def models(self) -> tuple[FlowModel, ...]:
        """Every scenario made ready to be solved."""
        return models(self.plan, self.layout)

    @room("size", lambda d: Settled(_NO_SIZES, {}, _NOTHING_JOINED, 0, ()))
    def settled(self) -> Settled:
        """Sizes feed fittings, fittings feed losses, losses feed sizes, until they agree."""
        plan, lay = self.plan, self.layout
        drains = {d.run: d for d in self.drains}
        picked = pick_sizes(plan, lay, {}, self.models, drains, self.late)
        joiner = Joiner(plan, lay)
        assembly = joiner.join(picked.pipes())
        told: list[Problem] = []
        rounds, again = 1, picked.many
        free = True
        while rounds < _ROUNDS:
            rounds += 1
            before = picked.pipes()
            picked = picked.again(assembly.minor, firm=not free)
            if picked.pipes() == before:
                if free or not again:
                    break
                free, again = True, False  # with fittings that stay, once more what is too large
                continue
            free = rounds < (_FREELY_OF_MANY if picked.many else _FREELY)
            assembly = joiner.join(picked.pipes())
        else:
            told.append(tell("sizes-not-settled", "", rounds=_ROUNDS))
        sizes = picked.sizes()
        return Settled(sizes, picked.pipes(), assembly, rounds, (*sizes.problems, *told))

    @property
    def drains(self) -> tuple[DrainRun, ...]:
        """Every run of a drain that runs by its fall."""
        return self.drained.runs

    @property
    def sizes(self) -> Sizes:
        """The pipe of every run and the flows that follow."""
        return self.settled.sizes

    @property
    def assembly(self) -> Assembly:
        """Every fitting and joint."""
        return self.settled.assembly

    @room("size", lambda d: {}, "settled")
    def surges(self) -> dict[str, Stopped]:
        """What a sudden stop does to every run."""
        found = all_surges(self.plan, self.layout, self.settled.pipes, self.sizes.flows)
        return {run: Stopped(s.peak, s.limit, s.peak <= s.limit) for run, s in found.items()}

    @room("size", lambda d: {}, "settled")
    def watered(self) -> dict[str, Coverage]:
        """Where the water of the heads lands, by scenario."""
        return coverages(self.plan, self.sizes.flows)

    @room("size", lambda d: House("", (), (), ()), "settled")
    def house(self) -> House:
        """What runs together in a house, and the wait for hot water."""
        return house(self.plan, self.layout, self.settled.pipes)

    @room("size", lambda d: NO_ROUNDS, "settled")
    def rounds(self) -> Rounds:
        """What there is to tell of bodies of water and what goes round in them."""
        return rounds(self.plan, self.layout, self.settled.pipes, self.assembly.minor, self.sizes.flows)

    @room("size", lambda d: {}, "settled")
    def shut(self) -> dict[str, dict[str, OutletFlow]]:
        """What taps and hydrants that are shut would give, by scenario."""
        return would_give(self.plan, self.layout, self.settled.pipes, self.assembly.minor, self.sizes.flows)

    @room("size", lambda d: {}, "settled")
    def dripped(self) -> dict[str, dict[str, Emission]]:
        """What the emitters of every drip row pass, by scenario and row."""
        return emissions(self.plan, self.layout, self.settled.pipes, self.sizes.flows)

    @room("size", lambda d: Checked(()), "settled")
    def landed(self) -> Checked:
        """What is wrong with where it lands."""
        return Checked(
            flowing_problems(self.plan, self.layout, self.settled.pipes, self.sizes.flows, self.watered, self.dripped)
        )

    @room("size", lambda d: Checked(()), "settled")
    def pressed(self) -> Checked:
        """What sudden stops, vessels, air, intakes and filters due for cleaning show."""
        plan, lay, pipes = self.plan, self.layout, self.settled.pipes
        surges = all_surges(plan, lay, pipes, self.sizes.flows)
        return Checked(
            (
                *hammer_problems(plan, lay, pipes, surges),
                *(
                    *vessel_problems(plan, lay, self.sizes.flows),
                    *string_problems(plan, lay, pipes),
                    *air_problems(plan, lay, self.sizes.flows.values()),
                ),
                *intake_problems(plan, lay, pipes, self.sizes.through()),
                *clogged_problems(plan, lay, pipes, self.assembly.minor, self.sizes.flows),
                *uneven_problems(plan, lay, tuple(self.sizes.flows.values())),
                *cold_problems(plan, pipes, lay.warm),
                *movement_problems(plan, lay, pipes),
                *expansion_problems(plan, lay),
            )
        )

    @room("join", lambda d: Checked(()), "settled")
    def joined(self) -> Checked:
        """What cannot be joined, and parts that carry less than they see."""
        return Checked(
            (
                *self.assembly.problems,
                *half_inch_problems(self.plan),
                *part_rating_problems(self.plan, self.layout, self.settled.pipes, self.assembly),
                *thrust_problems(self.plan, self.assembly, self.sections),
            )
        )

    @room("size", lambda d: Checked(()), "settled")
    def ovals(self) -> Checked:
        """Buried pipe that soil and wheels press out of round, and where it crosses other pipe."""
        plan, pipes = self.plan, self.settled.pipes
        return Checked((*oval_problems(plan, pipes), *crossing_problems(plan, self.layout, pipes)))

    @room("cut", lambda d: Trench((), 0.0, 0.0, 0.0, 0.0, 0.0, ()), "settled")
    def trench(self) -> Trench:
        """What is dug, and what goes back."""
        return trench(self.plan, self.layout, self.settled.pipes)

    @room("cut", lambda d: CutList((), (), (), ()), "settled")
    def cuts(self) -> CutList:
        """Every piece, and the sticks and coils it comes from."""
        return cut(self.plan, self.layout, self.settled.pipes, self.assembly)

    @room("cut", lambda d: (), "settled")
    def placed(self) -> tuple[PlacedFitting, ...]:
        """Every fitting in its place, with its openings."""
        return placed_fittings(self.plan, self.layout, self.assembly)

    @room("cut", lambda d: (), "placed")
    def bodies(self) -> tuple[FittingBody, ...]:
        """Every fitting as the body it is, in its place."""
        return bodies(self.placed)

    @room("cut", lambda d: Checked(()), "settled")
    def apart(self) -> Checked:
        """Bodies that meet where no run joins them, and joints and handles with no room for what turns them."""
        plan, lay, found = self.plan, self.layout, self.bodies
        room_for = room_problems(plan, lay, found, self.assembly, self.settled.pipes)
        return Checked((*meeting_problems(plan, lay, found), *room_for))

    @room("cut", lambda d: (), "settled")
    def bill(self) -> tuple[BillRow, ...]:
        """The bill of materials."""
        return bill(self.plan, self.assembly, self.cuts, self.wire)

    @room("cut", lambda d: Checked(()), "settled")
    def priced(self) -> Checked:
        """What is bought and has no price."""
        return Checked(tuple(price_problems(self.plan, self.assembly, self.cuts)))

    @room("make", lambda d: {}, "settled")
    def inverts(self) -> dict[str, WantedInvert]:
        """What each joint of a drain is laid to."""
        return wanted_inverts(self.plan, self.layout, self.drains, self.settled.pipes, self.assembly.joints)

    @room("make", lambda d: WorkOrder((), (), ()), "settled")
    def work(self) -> WorkOrder:
        """The order to make it in."""
        return worklist(self.plan, self.layout, self.settled.pipes, self.assembly)

    @room("make", lambda d: None, "settled")
    def changed_over(self) -> Changeover | None:
        """The changeover that is drawn, rehearsed; None where none is."""
        return changeover(self.plan, self.layout, self.settled.pipes)

    @room("make", lambda d: Checked(()), "settled")
    def stepped(self) -> Checked:
        """Ways of joining that no steps are written for, and clocks on weather that nobody said."""
        return Checked((*step_problems(self.assembly), *weather_problems(self.plan, self.assembly)))

    @room("prove", lambda d: (), "settled")
    def sections(self) -> tuple[Section, ...]:
        """What can be tested alone."""
        return sections(self.plan, self.layout, self.settled.pipes, self.assembly)

    @property
    def _site(self) -> set[str]:
        """What stands there, where pipe lies and of what, and what the weather and the water are like."""
        plan = self.plan
        hose = {p.id for p in plan.points if isinstance(p.what, Equipment) and p.what.hangs}  # a timer on a tap
        places = {p.what.kind for p in plan.points if p.id not in hose} | {r.situation for r in plan.runs}
        places |= {series(r.series).material for r in plan.runs if r.series is not None}
        places |= {"hot"} if max(self.layout.warm.values(), default=0.0) >= HOT else set()
        return places | ({"frost"} if plan.conditions.air_temperature < FROST else set())

    @property
    def site_cautions(self) -> tuple[Caution, ...]:
        """What can hurt someone by what stands there and where pipe lies."""
        return cautions_for(*sorted(self._site))

    @room("make", lambda d: (), "settled")
    def cautions(self) -> tuple[Caution, ...]:
        """What can hurt someone in this job, the ways of joining included."""
        places = set(self._site)
        for j in self.assembly.joints:
            run = j.run or (None if j.end is None else self.layout.run_of.get(j.end))
            kinds = [series(pipe_called(s.pipe).series).kind for s in (j.a, j.b) if s.pipe is not None]
            places |= cautioned_at(j.method, ["drain"] if run is not None and self.systems.drain(run) else kinds)
        return cautions_for(*sorted(places))

    def problems(self, upto: Stage = "keep") -> tuple[Problem, ...]:
        """What is wrong, found by every room of the stages up to one; worked out once."""
        known = self._told.get((upto, len(self.failed)))
        if known is None:
            known = self._all_told(upto)
            self._told[upto, len(self.failed)] = known
        return known

    def _all_told(self, upto: Stage) -> tuple[Problem, ...]:
        stages = STAGES[: STAGES.index(upto) + 1]
        told: list[Problem] = []
        for name, stage in self.ROOMS.items():
            if stage in stages and name != "systems":  # the layout tells what its systems told
                told += getattr(getattr(self, name), "problems", ())
        whole = folded(self.plan, self.systems, (*self.failed, *_once(told)))
        return tuple(replace(p, does=says) if p.code in MENDS and (says := self._does(p)) else p for p in whole)

    def _does(self, problem: Problem) -> str:
        """What the plain mend of a problem does; "" where that cannot be told: it hides no problem."""
        try:
            return does(self.plan, problem)
        except Exception:
            if self.strict:
                raise
            _log.exception("the mend of %s broke down", problem.code)
            return ""


def _once(told: list[Problem]) -> Iterator[Problem]:
    """Each problem once: what is wrong at a place in several scenarios is shown with the first of them, and how many
    more there are.
    """

    def what(p: Problem) -> tuple[str, str, str, str]:
        return p.code, p.where, p.mend, "" if p.scenario else p.says  # what is so in one scenario is said in its words

    more: dict[tuple[str, str, str, str], int] = {}
    for p in told:
        more[what(p)] = more.get(what(p), -1) + 1
    for p in told:
        count = more.pop(what(p), None)
        if count is not None:
            again = f"The same in {count} other scenario{'s' if count > 1 else ''}." if count else ""
            yield said_more(p, again) if again else p


Derived = Derivation


def derive(plan: Plan, late: Late = never, *, strict: bool | None = None) -> Derivation:
    """All that follows from a plan, worked out as it is asked for; `strict` lets a room that fails raise."""
    return Derivation(plan, late, strict=strict)


def made_of(derived: Derivation) -> set[str]:
    """The ids of the fittings and series that a derived plan takes."""
    return {p.fitting for p in derived.assembly.parts} | {c.series for c in derived.sizes.choices.values()}


def where_it_stands(plan: Plan, derived: Derivation, done: Log | Iterable[Event], now: float) -> Readiness:
    """The state of every joint and section of a derived plan at `now` (s since 1970), from the events or their log."""
    log = done if isinstance(done, Log) else Log(done)
    return readiness(plan, derived.assembly, derived.sections, log, now, derived.problems())
