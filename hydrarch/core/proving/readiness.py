"""What is dry, setting, curing, proved and fit to bury: joints and sections at one moment, and the gates between."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.joining.records import Assembly
from hydrarch.core.making.log import Log
from hydrarch.core.making.state import MADE, Event, JointState, LostJoint, fold_joints, lost_joints
from hydrarch.core.making.tins import old_tins
from hydrarch.core.plan import Plan
from hydrarch.core.problems import Problem, Stage
from hydrarch.core.proving.sections import Section
from hydrarch.core.proving.stages import stage_shares

__all__ = ["Gate", "Readiness", "SectionState", "TestRecord", "gate_for", "readiness"]


@dataclass(frozen=True, slots=True)
class Gate:
    """Whether a step may be taken; `why` says what stands in the way, `from_time` when it will not (s since 1970)."""

    open: bool
    why: str
    from_time: float | None


@dataclass(frozen=True, slots=True)
class TestRecord:
    """A pressure test as it was entered."""

    id: str
    at: float
    ended: float | None
    pressure: float | None
    passed: bool
    by: str
    override: str
    note: str


@dataclass(frozen=True, slots=True)
class SectionState:
    """A section at one moment: how many joints are not made, dry or curing, its gates, and its tests.

    `buried` is whether anyone has covered it, proved or not; `overrides` are the reasons given on the way.
    """

    section: str
    unmade: tuple[str, ...]
    dry: tuple[str, ...]
    curing: tuple[str, ...]
    proved: bool
    buried: bool
    fill: Gate
    pressurise: Gate
    bury: Gate
    tests: tuple[TestRecord, ...]
    overrides: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Readiness:
    """The whole job at one moment. `joints` are those anything was done to; any other is planned.

    `first` lists the joints to see to first at a hand-over: dry, then unproved. `stages` is how far each stage is, from 0 to 1;
    `tins` tells of cement and primer that have grown old, `lost` of joints that were made and are not on the drawing any more.
    """

    now: float
    joints: dict[str, JointState]
    sections: dict[str, SectionState]
    first: tuple[str, ...]
    cautions: tuple[Caution, ...]
    tins: tuple[Problem, ...]
    stages: dict[Stage, float]
    lost: tuple[LostJoint, ...]


def readiness(
    plan: Plan, assembly: Assembly, parts: tuple[Section, ...], log: Log, now: float, problems: Iterable[Problem] = (),
) -> Readiness:  # fmt: skip
    """The state of a job's joints and sections at `now` (s since 1970), from all that was done; `problems` are the plan's."""
    pressure: dict[str, float] = {j: s.test for s in parts for j in s.joints}
    states = fold_joints(plan, assembly.joints, log.joints, now, pressure)
    sections = {s.id: _section(s, states, log, now) for s in parts}
    dry = [j for j, s in states.items() if s.state == "dry"]
    unproved = [j for j, s in states.items() if (s.state in MADE and not s.proved) or not s.matches]
    first = tuple(dict.fromkeys([*dry, *unproved]))
    lost = lost_joints(assembly.joints, log.joints)
    shares = stage_shares(plan, problems, assembly.joints, states)
    return Readiness(now, states, sections, first, cautions_for("test", "buried"), old_tins(plan, now), shares, lost)


def _section(section: Section, states: Mapping[str, JointState], log: Log, now: float) -> SectionState:
    mine = [states[j] for j in section.joints if j in states]
    unmade = tuple(j for j in section.joints if j not in states or states[j].state not in MADE)
    dry = tuple(s.joint for s in mine if s.state == "dry")
    curing = tuple(s.joint for s in mine if s.state in ("setting", "curing"))
    proof = sum(s.proved for s in mine)
    proved = 0 < proof == len(section.joints)
    tests = tuple(
        TestRecord(e.id, e.at, e.ended, e.pressure, bool(e.passed), e.by, e.override, e.note)
        for e in log.tests.get(section.id, ())
    )
    return SectionState(
        section.id, unmade, dry, curing, proved, section.id in log.buried,
        _fill(mine, unmade, now), _pressurise(mine, unmade, curing), _bury(len(section.joints) - proof, proved, tests), tests,
        tuple(log.reasons.get(section.id, ())),
    )  # fmt: skip


def _fill(mine: list[JointState], unmade: tuple[str, ...], now: float) -> Gate:
    """When water may come in slowly: the low-pressure column of the cure table, before the test's own."""
    if unmade or not mine:
        return _not_made(unmade)
    waiting = [s for s in mine if (s.fill_at or 0.0) > now]
    if waiting:
        return Gate(False, f"{_joints(len(waiting))} too fresh for water", max(s.fill_at or 0.0 for s in waiting))
    return Gate(True, "fill it slowly, with the high end open", None)


def _pressurise(mine: list[JointState], unmade: tuple[str, ...], curing: tuple[str, ...]) -> Gate:
    if unmade or not mine:
        return _not_made(unmade)
    wrong = [s for s in mine if not s.matches]
    if wrong:
        return Gate(False, f"{_joints(len(wrong))} made to another drawing than this one", None)
    ready = max((s.cured_at or 0.0 for s in mine), default=None)
    if curing:
        return Gate(False, f"{_joints(len(curing))} still curing", ready)
    return Gate(True, "every joint is made and cured", ready)


def _not_made(unmade: tuple[str, ...]) -> Gate:
    return Gate(False, f"{_joints(len(unmade))} not made yet" if unmade else "it has no joints yet", None)


def _bury(unproved: int, proved: bool, tests: tuple[TestRecord, ...]) -> Gate:
    if proved:
        return Gate(True, "its test passed", None)
    if tests and not tests[-1].passed:
        return Gate(False, "its last test failed", None)
    return Gate(False, f"{_joints(unproved)} not proved by a test", None)


def _joints(count: int) -> str:
    return f"{count} joint is" if count == 1 else f"{count} joints are"


def gate_for(event: Event, state: SectionState) -> Gate:
    """The gate an event must pass: pressure for a test, proof for burying; open for anything else."""
    if event.kind == "tested":
        return state.pressurise
    if event.kind == "buried":
        return state.bury
    return Gate(True, "", None)
