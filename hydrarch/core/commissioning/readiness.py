"""What is dry, setting, curing, proved and fit to bury: joints and sections at one moment, and the gates between."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from math import inf

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.commissioning.handover import Handed, HandOver, hand_over, last_handed
from hydrarch.core.commissioning.held import held_ends
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.commissioning.stages import stage_shares
from hydrarch.core.commissioning.tightness import THERMOMETER, judge
from hydrarch.core.joining.assembled import Assembly
from hydrarch.core.making.steps import words_for_time
from hydrarch.core.making.tins import old_tins
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, Instrument
from hydrarch.core.record.log import Log
from hydrarch.core.record.proof import READ_TO, READ_WITHIN, TestNeed, clashing_tests
from hydrarch.core.record.states import (
    MADE,
    JointState,
    LostJoint,
    fold_joints,
    lost_joints,
)

_FREEZES = 273.15  # K

__all__ = ["DoneStep", "Gate", "Readiness", "SectionState", "TestRecord", "gate_for", "looked_gate", "readiness"]


@dataclass(frozen=True, slots=True)
class Gate:
    """Whether a step may be taken; `why` says what stands in the way, `from_time` when it will not (s since 1970)."""

    open: bool
    why: str
    from_time: float | None


@dataclass(frozen=True, slots=True)
class TestRecord:
    """A test as it was entered, whether it proves its section, and what it falls short of, in words.

    `simulated` is whether any of its readings was made by a stand-in.
    """

    id: str
    at: float
    ended: float | None
    pressure: float | None
    passed: bool
    by: str
    override: str
    note: str
    proves: bool
    short: tuple[str, ...]
    instrument: Instrument | None = None
    simulated: bool = False


@dataclass(frozen=True, slots=True)
class SectionState:
    """A section at one moment: how many joints are not made, dry or curing, its gates, and its tests.

    What is only fitted after flushing is left out of it. `proved` is whether all the others are, and what was `parted`
    for the test is made again, and that and what the test did not reach is seen dry; `unseen` are those that are not.
    What is run instead of tested is proved where each joint was seen dry while it ran, the first of them `looked_after`
    (s) the water came on; `ran` is when it came on last (s since 1970). `buried` is whether all of it was covered,
    proved or not; `overrides` are the reasons given on the way.
    """

    section: str
    unmade: tuple[str, ...]
    dry: tuple[str, ...]
    curing: tuple[str, ...]
    proved: bool
    unseen: tuple[str, ...]
    buried: bool
    fill: Gate
    pressurise: Gate
    bury: Gate
    tests: tuple[TestRecord, ...]
    overrides: tuple[str, ...]
    looked_after: float | None = None
    ran: float | None = None


@dataclass(frozen=True, slots=True)
class DoneStep:
    """A step of a changeover that was done: when (s since 1970) and by whom."""

    at: float
    by: str


@dataclass(frozen=True, slots=True)
class Readiness:
    """The whole job at one moment. `joints` are those anything was done to; any other is planned.

    `first` lists the joints to see to first at a hand-over: dry, then unproved. `stages` is how far each stage is, from
    0 to 1; `tins` tells of cement and primer that have grown old, `lost` of joints that were made and are not on the
    drawing any more; `hand_over` is all of it counted, `held` where something goes between two pipes that are made
    already, `handed` the last hand-over, `stepped` the steps of a changeover that are done, by name.
    """

    now: float
    joints: dict[str, JointState]
    sections: dict[str, SectionState]
    first: tuple[str, ...]
    cautions: tuple[Caution, ...]
    tins: tuple[Problem, ...]
    stages: dict[Stage, float]
    lost: tuple[LostJoint, ...]
    hand_over: HandOver
    held: tuple[Problem, ...] = ()
    handed: Handed | None = None
    stepped: dict[str, DoneStep] = field(default_factory=dict)


def readiness(
    plan: Plan,
    assembly: Assembly,
    parts: tuple[Section, ...],
    log: Log,
    now: float,
    problems: Iterable[Problem] = (),
) -> Readiness:
    """The state of a job's joints and sections at `now` (s since 1970), from all that was done; `problems` are the
    plan's.
    """
    needs = {j: _need(s, apart=j in s.later) for s in parts for j in s.joints}
    known = {s.id: s for s in parts}
    verdicts = {
        e.id: _verdict(e, known[name], plan)
        for name, tests in log.tests.items()
        if name in known
        for e in tests
        if e.readings or e.simulated
    }
    refused = {name for name, verdict in verdicts.items() if verdict}
    states = fold_joints(plan, assembly.joints, log.joints, now, needs, refused)
    for s in (s for s in parts if s.sort == "run"):  # a look shows nothing there where no water came since it was made
        for j in (j for j in s.joints if j in states and states[j].looked is not None):
            if _on_since(states[j], log.ran.get(s.id, ())) is None:
                states[j] = replace(states[j], looked=None)
    sections = {s.id: _section(plan, s, states, log, now, verdicts) for s in parts}
    later = {j for s in parts for j in (s.joints if s.sort == "run" else s.later)}  # looked at, not tested
    problems = tuple(problems)
    counts = hand_over(
        assembly.joints,
        states,
        later,
        {j for s in parts if s.pushed for j in s.joints},
        [p.says for p in sorted(problems, key=lambda p: not p.danger) if p.severity == "stop" and not p.follows],
    )
    lost = lost_joints(assembly.joints, log.joints)
    shares = stage_shares(plan, problems, assembly.joints, states, counts.proved + counts.looked)
    return Readiness(
        now=now,
        joints=states,
        sections=sections,
        first=counts.first,
        cautions=cautions_for(
            *(("test",) if any(s.sort != "run" for s in parts) else ()),
            *(("buried",) if any(plan.run_by_id[r].situation == "buried" for s in parts for r in s.runs) else ()),
        ),
        tins=old_tins(plan, now),
        stages=shares,
        lost=lost,
        hand_over=counts,
        held=held_ends(plan, assembly, states),
        handed=last_handed(log),
        stepped={name: DoneStep(e.at, e.by) for name, e in log.stepped.items() if e.count},
    )


def _need(section: Section, apart: bool = False) -> TestNeed:
    return TestNeed(section.test, inf if section.sort == "drain" else section.limit, section.hold, apart)


def _verdict(test: Event, section: Section, plan: Plan) -> str:
    """What a test's readings say against it; "" where they say that it is tight."""
    if test.simulated:
        return "its readings are simulated: they do not count as a test"
    try:
        by = test.instrument or Instrument("gauge")
        found = judge(
            test.readings,
            section,
            by.error,
            units=plan.units,
            thermometer=THERMOMETER if by.thermometer is None else by.thermometer,
        )
    except HydrarchError as error:
        return str(error)
    return "" if found.tight else "; ".join((found.verdict, *found.missing))


def _section(
    plan: Plan, section: Section, states: Mapping[str, JointState], log: Log, now: float, verdicts: Mapping[str, str]
) -> SectionState:
    joints = [j for j in section.joints if j not in section.later]
    mine = [states[j] for j in joints if j in states]
    unmade = tuple(j for j in joints if j not in states or states[j].state not in MADE)
    dry = tuple(s.joint for s in mine if s.state == "dry")
    curing = tuple(s.joint for s in mine if s.state in ("setting", "curing"))
    run = section.sort == "run"  # what is run instead of tested is proved by being seen dry while it runs
    on = {s.joint: since for s in mine if run and (since := _on_since(s, log.ran.get(section.id, ()))) is not None}
    proof = sum(s.proved or s.joint in on for s in mine)
    unseen = tuple(j for j in (*section.parted, *section.below) if j not in states or not _shows_dry(states[j]))
    proved = 0 < proof == len(joints) and not unseen
    tests = []
    clashing = clashing_tests(log.tests.get(section.id, ()))
    for e in log.tests.get(section.id, ()):
        short = _short(plan, section, mine, unmade, e, verdicts.get(e.id, ""))
        short = (*short, *([clashing[e.id]] if e.id in clashing else ()))
        tests.append(
            TestRecord(
                id=e.id,
                at=e.at,
                ended=e.ended,
                pressure=e.pressure,
                passed=bool(e.passed),
                by=e.by,
                override=e.override,
                note=e.note,
                proves=bool(e.passed) and not short,
                short=short,
                instrument=e.instrument,
                simulated=e.simulated,
            )
        )
    stop = _stopped(plan, section)
    return SectionState(
        section=section.id,
        unmade=unmade,
        dry=dry,
        curing=curing,
        proved=proved,
        unseen=unseen,
        buried=bool(mine) and len(mine) == len(joints) and all(s.covered for s in mine),
        fill=stop or _fill(mine, unmade, now),
        pressurise=stop or _pressurise(mine, unmade, curing),
        bury=_bury(len(joints) - proof, proved, unseen, len(set(unseen).intersection(section.below)), tests, run),
        tests=tuple(tests),
        overrides=tuple(log.reasons.get(section.id, ())),
        looked_after=min(
            (s.looked - on[s.joint] for s in mine if s.joint in on and s.looked is not None), default=None
        ),
        ran=max(log.ran.get(section.id, ()), default=None),
    )


def _short(
    plan: Plan, section: Section, mine: list[JointState], unmade: tuple[str, ...], test: Event, verdict: str
) -> tuple[str, ...]:
    """What a test falls short of, against the section's plan as it is now."""
    need, pressure, units = _need(section), test.pressure or 0.0, plan.units
    held = (test.ended or test.at) - test.at
    found = []
    if pressure < need.test * READ_TO:
        found.append(
            f"at {show(pressure, 'pressure', units)}, and it is to be tested at {show(need.test, 'pressure', units)}"
        )
    if pressure > need.most / READ_TO**2:
        found.append(
            f"above the {show(need.most, 'pressure', units)} that {section.weakest} carries: look at that "
            "part, it may be strained"
        )
    if held < need.hold - READ_WITHIN:
        found.append(f"held {words_for_time(held)} of {words_for_time(need.hold)}")
    changed = sum(not s.matches for s in mine)
    if changed:
        found.append(f"{_joints(changed)} made to another drawing than this one")
    leaks = sum(s.leak is not None for s in mine)
    if leaks:
        found.append(f"{_joints(leaks)} leaking, by the record")
    mended = sum(s.mend is not None and s.mend.at > test.at for s in mine)
    if mended:
        found.append(f"pipe at {mended} joint{'s' if mended > 1 else ''} was opened after it, for a mend")
    fresh = sum(s.state in MADE and (s.cured_at or 0.0) > test.at for s in mine)
    if fresh + len(unmade):
        found.append(f"{_joints(fresh + len(unmade))} not made and cured then")
    return (*found, *([verdict] if verdict else ()))


def _stopped(plan: Plan, section: Section) -> Gate | None:
    """What keeps water out of a section whatever its joints are."""
    if section.fault:
        return Gate(False, section.fault, None)
    cold = plan.conditions.air_temperature
    if cold < _FREEZES:
        told = show(cold, "temperature", plan.units)
        return Gate(False, f"it freezes, {told} is to come: water in it would burst it; wait for the thaw", None)
    return None


def _fill(mine: list[JointState], unmade: tuple[str, ...], now: float) -> Gate:
    """When water may come in slowly: the low-pressure column of the cure table, before the test's own."""
    if unmade or not mine:
        return _not_made(mine, unmade)
    if clash := _clashing(mine):
        return clash
    waiting = [s for s in mine if (s.fill_at or 0.0) > now]
    if waiting:
        return Gate(False, f"{_joints(len(waiting))} too fresh for water", max(s.fill_at or 0.0 for s in waiting))
    return Gate(True, "fill it slowly, with the high end open", None)


def _pressurise(mine: list[JointState], unmade: tuple[str, ...], curing: tuple[str, ...]) -> Gate:
    if unmade or not mine:
        return _not_made(mine, unmade)
    if clash := _clashing(mine):
        return clash
    wrong = [s for s in mine if not s.matches]
    if wrong:
        return Gate(False, f"{_joints(len(wrong))} made to another drawing than this one", None)
    ready = max((s.cured_at or 0.0 for s in mine), default=None)
    if curing:
        return Gate(False, f"{_joints(len(curing))} still curing", ready)
    return Gate(True, "every joint is made and cured", ready)


def _clashing(mine: list[JointState]) -> Gate | None:
    """Joints that leak by the record, or whose records say that they are made and that they are dry; contradicting
    tests keep no water out, and prove nothing.
    """
    leaks = [s for s in mine if s.leak is not None]
    if leaks:
        seen = leaks[0].leak.by if leaks[0].leak else ""
        return Gate(False, f"{_joints(len(leaks))} leaking, seen by {seen or 'somebody'}: mend it and say so", None)
    dry = [s for s in mine if any(o.contradicts for o in s.others)]
    if not dry:
        return None
    return Gate(
        False,
        f"records contradict on {len(dry)} joint{'s' if len(dry) > 1 else ''}: {dry[0].clash}; withdraw one of the two",
        None,
    )


def _not_made(mine: list[JointState], unmade: tuple[str, ...]) -> Gate:
    if not unmade:
        return Gate(False, "it has no joints yet", None)
    left = [s for s in mine if s.purpose]
    why = f"; {len(left)} of them left dry on purpose by {left[0].by or 'somebody'}: {left[0].purpose}" if left else ""
    return Gate(False, f"{_joints(len(unmade))} not made yet{why}", None)


def _shows_dry(joint: JointState) -> bool:
    """Whether a joint was seen dry with its gate open: a look that passed a shut one, for a reason, shows nothing."""
    return joint.looked is not None and not joint.looked_over


def _seen_dry(joint: JointState) -> bool:
    """Whether a joint was seen dry with water in it, as it is drawn now, when it stood what it sees."""
    return _shows_dry(joint) and joint.matches and (joint.looked or 0.0) >= (joint.cured_at or 0.0)


def _on_since(joint: JointState, ran: Iterable[float]) -> float | None:
    """When the water came on in which a joint, as it is, was seen dry; None where it was not."""
    if not _seen_dry(joint) or joint.looked is None:
        return None
    return max((at for at in ran if (joint.at or 0.0) <= at <= joint.looked), default=None)


def _bury(unproved: int, proved: bool, unseen: Collection[str], below: int, tests: list[TestRecord], run: bool) -> Gate:
    if proved:
        return Gate(True, "every joint was seen dry while it ran" if run else "its test passed", None)
    if not unproved and below == len(unseen):
        way = "look at it" if below == 1 else "look at them"
        return Gate(False, f"its test passed; it did not reach {below} below the check valve: {way} and say so", None)
    if not unproved:
        again = (
            "make it again, run the line and say it is dry"
            if len(unseen) == 1
            else "make them again, run the line and say each is dry"
        )
        return Gate(False, f"its test passed; {_joints(len(unseen))} parted for it: {again}", None)
    if tests and not tests[-1].passed:
        return Gate(False, "its last test failed", None)
    if tests and tests[-1].short:
        return Gate(False, f"its last test does not count: {'; '.join(tests[-1].short)}", None)
    return Gate(
        False, f"{_joints(unproved)} not {'seen dry while it runs' if run else 'covered by a passed test'}", None
    )


def _joints(count: int) -> str:
    return f"{count} joint is" if count == 1 else f"{count} joints are"


def looked_gate(parts: Iterable[Section], state: Readiness, joints: Iterable[str], now: float) -> Gate:
    """Whether joints can have been seen dry in use: each is made, and water can be in the line it is in."""
    for joint in joints:
        mine = state.joints.get(joint)
        if mine is None or mine.state not in MADE:
            return Gate(False, "a joint that is not made cannot be seen dry in use", None)
        if mine.fill_at is not None and now < mine.fill_at:
            return Gate(False, "it is too fresh for water", mine.fill_at)
        for section in (s for s in parts if joint in s.joints):
            fill = state.sections[section.id].fill
            if not fill.open:
                return Gate(False, f"there can be no water in {section.name} yet: {fill.why}", fill.from_time)
            ran = state.sections[section.id].ran
            if section.sort == "run" and (ran is None or ran < (mine.at or 0.0)):
                return Gate(False, f"{section.name} has not run since that joint was made: run it first", None)
    return Gate(True, "", None)


def gate_for(event: Event, state: SectionState) -> Gate:
    """The gate an event must pass: pressure for a test, proof for burying; open for anything else."""
    if event.kind == "tested":
        return state.pressurise
    if event.kind == "buried":
        return state.bury
    return Gate(True, "", None)
