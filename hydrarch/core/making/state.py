"""What has been done to each joint, folded from events that are only ever added.

A joint is recorded under its name. A joint along a length of pipe has two, one from each end, since either end may change;
the record is found by either, and an event that finds it by the other says so (`was`), so that folding needs no drawing.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, field
from math import inf
from typing import Any, Literal

from hydrarch.core.joining.records import Joint
from hydrarch.core.making.steps import joint_cure
from hydrarch.core.plan import Plan

__all__ = [
    "MADE",
    "Event",
    "EventKind",
    "JointState",
    "LostJoint",
    "Mark",
    "Need",
    "Otherwise",
    "Record",
    "SaidKind",
    "StateName",
    "event_body",
    "event_from",
    "fold_event",
    "fold_events",
    "fold_joints",
    "joint_state",
    "lost_joints",
    "mark_joints",
    "records_of",
]

SaidKind = Literal[
    "dry_fitted",
    "left_dry",
    "made",
    "undone",
    "looked",
    "tested",
    "buried",
    "handed_over",
    "taken_over",
    "tended",
    "got",
    "laid_out",
]
"""What a crew may say; a zone that ran is written by the server alone."""
EventKind = Literal[SaidKind, "ran"]
StateName = Literal["planned", "dry", "setting", "curing", "cured", "proved", "buried"]
MADE: tuple[StateName, ...] = ("setting", "curing", "cured", "proved", "buried")


@dataclass(frozen=True, slots=True)
class Mark:
    """What a joint was when something was done to it: its signature, its other name, the name it was recorded under before.

    `where` says for people where it was; all are "" where there is nothing to say.
    """

    signature: str = ""
    also: str = ""
    was: str = ""
    where: str = ""


@dataclass(frozen=True, slots=True)
class Event:
    """What the crew did. `at` is seconds since 1970 (UTC); `override` is the reason a gate was passed, "" if none.

    `joints` are those it concerns, each with what it was then; a test also has pressure (Pa), end and result, and its gauge's
    readings (s, Pa, K where it was read) where they were taken down. A hand-over is `told` what stood unfinished then; who takes it over says
    `of` which it is, and so does who has tended to what was to be done again, got
    something (`count` of it now in the basket) or laid it out (1, or 0 where it was taken back). `clock` is by how much (s) its times were put right, where the
    clock of the phone that said it was wrong.
    """

    id: str
    kind: EventKind
    at: float
    by: str
    joints: dict[str, Mark] = field(default_factory=dict)
    section: str | None = None
    pressure: float | None = None
    ended: float | None = None
    passed: bool | None = None
    temperature: float | None = None
    override: str = ""
    note: str = ""
    readings: tuple[tuple[float, float, float | None], ...] = ()
    clock: float | None = None
    told: tuple[str, ...] = ()
    of: str = ""
    count: int | None = None


def event_body(event: Event) -> dict[str, Any]:
    """An event as plain data to be kept: what says nothing is left out."""
    body = {name: value for name in Event.__slots__ if name != "joints" and (value := getattr(event, name)) not in (None, "", ())}
    return {**body, "joints": {n: {k: v for k in Mark.__slots__ if (v := getattr(m, k))} for n, m in event.joints.items()}}


def event_from(body: Mapping[str, Any]) -> Event:
    """An event from such data."""
    readings = tuple((r[0], r[1], r[2]) for r in body.get("readings", ()))
    return Event(
        **{
            **body,
            "readings": readings,
            "told": tuple(body.get("told", ())),
            "joints": {n: Mark(**m) for n, m in body.get("joints", {}).items()},
        }
    )


@dataclass(frozen=True, slots=True)
class Otherwise:
    """What somebody else said of a joint that does not go with what stands: who, when (s since 1970), and what, in words."""

    by: str
    at: float
    what: str


@dataclass(frozen=True, slots=True)
class JointState:
    """Where a joint stands at one moment. `set_at` and `cured_at` are seconds since 1970, None where nothing waits.

    `fill_at` is when water may come to it slowly, before it takes its test at `cured_at`. `matches` is False when the joint was made to another definition than the plan has now; `looked` is when it was last seen
    dry under water; `proved` whether it passed a test, buried or not; `purpose` why it was left dry, where it was left so on purpose. `others` is what others said
    of it that does not go with that: the later word stands, and both are shown.
    """

    joint: str
    state: StateName
    by: str
    at: float | None
    set_at: float | None
    cured_at: float | None
    matches: bool
    overrides: tuple[str, ...]
    looked: float | None = None
    fill_at: float | None = None
    proved: bool = False
    purpose: str = ""
    others: tuple[Otherwise, ...] = ()


@dataclass(frozen=True, slots=True)
class Need:
    """What a test must come to that proves a joint: pressure (Pa) at the least and the most, and how long (s) it was held.

    No test proves a joint that is `apart` while it is held: one made after it, or parted for it. Such a joint is looked at.
    """

    test: float = 0.0
    most: float = inf
    hold: float = 0.0
    apart: bool = False

    def met_by(self, test: Event) -> bool:
        """Whether a test that was passed comes to that; what a gauge is read to is let pass."""
        held = (test.ended or test.at) - test.at
        if self.apart:
            return False
        return self.test * READ_TO <= (test.pressure or 0.0) <= self.most / READ_TO**2 and held >= self.hold - READ_WITHIN


READ_TO = 0.99
"""Share of a pressure that a gauge is read to; common practice."""
READ_WITHIN = 30.0
"""s within which a start and an end are written down."""


@dataclass(frozen=True, slots=True)
class LostJoint:
    """A joint that was made and that the drawing no longer has: its id, where it was as far as that is known, by whom and when."""

    joint: str
    place: str
    by: str
    at: float


@dataclass(slots=True)
class Record:
    """What a joint has come to by its events, before the clock is looked at."""

    state: Literal["planned", "dry", "made"] = "planned"
    at: float | None = None
    by: str = ""
    temperature: float | None = None
    signature: str = ""
    also: str = ""
    where: str = ""
    tests: list[Event] = field(default_factory=list)
    buried: bool = False
    looked: float | None = None
    purpose: str = ""
    overrides: list[str] = field(default_factory=list)
    others: list[Otherwise] = field(default_factory=list)


def fold_joints(
    plan: Plan, joints: Iterable[Joint], records: Mapping[str, Record], now: float, needs: Mapping[str, Need], refused: Container[str] = (),
) -> dict[str, JointState]:  # fmt: skip
    """The state at `now` of every joint anything was done to, from what each has come to; any other is planned.

    `needs` is what must have been come to by a test that proves each joint; `refused` are tests that prove nothing by their
    readings. Making a joint again takes its proof away, as does a test that failed.
    """
    known = tuple(joints)
    mine = records_of(known, records)
    return {j.id: _state(plan, j, records[mine[j.id]], now, needs.get(j.id, Need()), refused) for j in known if j.id in mine}


def records_of(joints: Iterable[Joint], records: Mapping[str, Record]) -> dict[str, str]:
    """The name under which each joint that has a record has it: its own, or its other one where no joint has that for its own."""
    known = tuple(joints)
    found: dict[str, str] = {j.id: j.id for j in known if j.id in records}
    free = {name: r for name, r in records.items() if name not in found}
    if free:
        by_also = {r.also: name for name, r in free.items() if r.also}
        for j in known:
            if j.also is None or j.id in found:
                continue
            name = next(
                (n for n in (j.also if j.also in free else None, by_also.get(j.id), by_also.get(j.also)) if n in free), None
            )
            if name is not None:
                found[j.id] = name
                del free[name]
    return found


def mark_joints(joints: Iterable[Joint], names: Iterable[str], records: Mapping[str, Record], place: bool) -> dict[str, Mark]:
    """What an event says of the joints it names: those of the drawing by their names now, any other as a lost joint.

    `place` is whether it is told where each was.
    """
    known = tuple(joints)
    recorded = records_of(known, records)
    by_name = {n: j for j in known for n in reversed(j.names)} | {str(j.id): j for j in known}
    by_record = {r: j for j in known if (r := recorded.get(j.id)) is not None}
    found: dict[str, Mark] = {}
    for name in names:
        joint = by_name.get(name) or by_record.get(name)
        if joint is None:
            old = records.get(name)
            found[name] = Mark(where=old.where if old is not None and place else "")
            continue
        was = recorded.get(joint.id, "")
        where = f"{joint.place}, towards {joint.towards}" if joint.towards else joint.place
        found[joint.id] = Mark(joint.signature, joint.also or "", was if was != joint.id else "", where if place else "")
    return found


def lost_joints(joints: Iterable[Joint], records: Mapping[str, Record]) -> tuple[LostJoint, ...]:
    """What was made, and not undone, and is no joint of the drawing any more; the earliest first."""
    there = set(records_of(joints, records).values())
    lost = [
        LostJoint(name, r.where or "not told where", r.by, r.at)
        for name, r in records.items() if name not in there and r.state == "made" and r.at is not None
    ]  # fmt: skip
    return tuple(sorted(lost, key=lambda x: (x.at, x.joint)))


def fold_events(events: Iterable[Event]) -> dict[str, Record]:
    """What each joint named in events has come to, taken in the order they happened."""
    records: dict[str, Record] = {}
    for event in sorted(events, key=lambda e: (e.at, e.id)):
        fold_event(records, event)
    return records


def fold_event(records: dict[str, Record], event: Event) -> None:
    """Add one event, no earlier than those before it, to what joints have come to."""
    for name, mark in event.joints.items():
        if mark.was and mark.was in records and name not in records:
            records[name] = records.pop(mark.was)
        record = records.setdefault(name, Record())
        record.also, record.where = mark.also or record.also, mark.where or record.where
        _apply(record, event, mark.signature)


def joint_state(states: Mapping[str, JointState], name: str) -> JointState:
    """The state of a joint among those that anything was done to: planned where nothing was."""
    return states.get(name) or JointState(name, "planned", "", None, None, None, True, ())


def _apply(record: Record, event: Event, signature: str) -> None:
    if event.override:
        record.overrides.append(event.override)
    if record.state == "made" and record.at is not None and event.by != record.by:
        if event.kind == "made":
            record.others.append(Otherwise(record.by, record.at, "made it"))
        elif event.kind in ("dry_fitted", "left_dry"):
            record.others.append(
                Otherwise(event.by, event.at, "left it dry" if event.kind == "left_dry" else "only fitted it dry")
            )
    match event.kind:
        case "dry_fitted" | "left_dry" if record.state != "made":
            record.state, record.at, record.by = "dry", event.at, event.by
            record.purpose = event.note.strip() if event.kind == "left_dry" else ""
        case "made":
            record.state, record.at, record.by = "made", event.at, event.by
            record.temperature, record.signature, record.purpose = event.temperature, signature, ""
            record.tests, record.buried, record.looked = [], False, None
        case "undone":
            record.state, record.at, record.by, record.purpose = "planned", event.at, event.by, ""
            record.tests, record.buried, record.looked, record.others = [], False, None, []
        case "looked" if record.state == "made":
            record.looked = event.at
        case "tested" if record.state == "made":
            record.tests.append(event)
        case "buried":
            record.buried = True


def _state(plan: Plan, joint: Joint, record: Record, now: float, need: Need, refused: Container[str]) -> JointState:
    matches = record.state != "made" or record.signature == joint.signature
    if record.state != "made" or record.at is None:
        name: StateName = "dry" if record.state == "dry" else "planned"
        return JointState(
            joint.id, name, record.by, record.at, None, None, matches, tuple(record.overrides), purpose=record.purpose
        )
    clock = joint_cure(plan, joint, need.test, record.temperature)
    set_at = record.at + clock.set if clock else record.at
    cured_at = record.at + clock.cure if clock else record.at
    fill_at = record.at + clock.fill if clock else record.at
    proved = False
    for test in record.tests:
        if not test.passed:
            proved = False
        elif need.met_by(test) and test.at >= cured_at and test.id not in refused:
            proved = True
    looked = record.looked
    if need.apart and looked is not None and any(t.at > looked for t in record.tests):
        looked = None  # it was off, or parted, since it was seen dry
    if record.buried:
        name = "buried"
    elif proved:
        name = "proved"
    elif now < set_at:
        name = "setting"
    else:
        name = "curing" if now < cured_at else "cured"
    return JointState(
        joint.id, name, record.by, record.at, set_at, cured_at, matches, tuple(record.overrides), looked, fill_at,
        proved, others=tuple(record.others),
    )  # fmt: skip
