"""What has been done to each joint, folded from events that are only ever added."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from hydrarch.core.joining.records import Joint
from hydrarch.core.making.steps import joint_cure
from hydrarch.core.plan import Plan

__all__ = [
    "MADE",
    "Event",
    "EventKind",
    "JointState",
    "LostJoint",
    "Record",
    "StateName",
    "fold_events",
    "fold_joints",
    "joint_state",
    "lost_joints",
]

EventKind = Literal["dry_fitted", "made", "undone", "looked", "tested", "ran", "buried"]
StateName = Literal["planned", "dry", "setting", "curing", "cured", "proved", "buried"]
MADE: tuple[StateName, ...] = ("setting", "curing", "cured", "proved", "buried")


@dataclass(frozen=True, slots=True)
class Event:
    """What the crew did. `at` is seconds since 1970 (UTC); `override` is the reason a gate was passed, "" if none.

    `joints` are those it concerns, with the signature each had then; a test also has pressure (Pa), end and result.
    """

    id: str
    kind: EventKind
    at: float
    by: str
    joints: dict[str, str] = field(default_factory=dict)
    section: str | None = None
    pressure: float | None = None
    ended: float | None = None
    passed: bool | None = None
    temperature: float | None = None
    override: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class JointState:
    """Where a joint stands at one moment. `set_at` and `cured_at` are seconds since 1970, None where nothing waits.

    `fill_at` is when water may come to it slowly, before it takes its test at `cured_at`. `matches` is False when the joint was made to another definition than the plan has now; `looked` is when it was last seen
    dry under water; `proved` whether it passed a test, buried or not.
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
    proved: bool = False
    buried: bool = False
    looked: float | None = None
    overrides: list[str] = field(default_factory=list)


def fold_joints(
    plan: Plan, joints: Iterable[Joint], records: Mapping[str, Record], now: float, pressure: dict[str, float]
) -> dict[str, JointState]:
    """The state at `now` of every joint anything was done to, from what each has come to; any other is planned.

    `pressure` (Pa) is the test pressure each joint must stand. Making a joint again takes its proof away.
    """
    return {j.id: _state(plan, j, records[j.id], now, pressure.get(j.id, 0.0)) for j in joints if j.id in records}


def lost_joints(plan: Plan, joints: Iterable[Joint], records: Mapping[str, Record]) -> tuple[LostJoint, ...]:
    """What was made, and not undone, and is no joint of the drawing any more; the earliest first."""
    there = {j.id for j in joints}
    lost = [
        LostJoint(name, _place(plan, name.split(".")[0]), r.by, r.at)
        for name, r in records.items() if name not in there and r.state == "made" and r.at is not None
    ]  # fmt: skip
    return tuple(sorted(lost, key=lambda x: (x.at, x.joint)))


def _place(plan: Plan, name: str) -> str:
    """Where a joint was, by the first part of its id: a point, or along a run."""
    run = next((r for r in plan.runs if r.id == name), None)
    if run is not None:
        return f"along {plan.names[run.a]} to {plan.names[run.b]}"
    return plan.names.get(name, f"{name}, which is gone from the drawing")


def fold_events(events: Iterable[Event]) -> dict[str, Record]:
    """What each joint named in events has come to, taken in the order they happened."""
    records: dict[str, Record] = {}
    for event in sorted(events, key=lambda e: (e.at, e.id)):
        for name, signature in event.joints.items():
            _apply(records.setdefault(name, Record()), event, signature)
    return records


def joint_state(states: Mapping[str, JointState], name: str) -> JointState:
    """The state of a joint among those that anything was done to: planned where nothing was."""
    return states.get(name) or JointState(name, "planned", "", None, None, None, True, ())


def _apply(record: Record, event: Event, signature: str) -> None:
    if event.override:
        record.overrides.append(event.override)
    match event.kind:
        case "dry_fitted" if record.state != "made":
            record.state, record.at, record.by = "dry", event.at, event.by
        case "made":
            record.state, record.at, record.by = "made", event.at, event.by
            record.temperature, record.signature = event.temperature, signature
            record.proved, record.buried, record.looked = False, False, None
        case "undone":
            record.state, record.at, record.by = "planned", event.at, event.by
            record.proved, record.buried, record.looked = False, False, None
        case "looked" if record.state == "made":
            record.looked = event.at
        case "tested" if record.state == "made":
            record.proved = bool(event.passed)
        case "buried":
            record.buried = True


def _state(plan: Plan, joint: Joint, record: Record, now: float, pressure: float) -> JointState:
    matches = record.state != "made" or record.signature == joint.signature
    if record.state != "made" or record.at is None:
        name: StateName = "dry" if record.state == "dry" else "planned"
        return JointState(joint.id, name, record.by, record.at, None, None, matches, tuple(record.overrides))
    clock = joint_cure(plan, joint, pressure, record.temperature)
    set_at = record.at + clock.set if clock else record.at
    cured_at = record.at + clock.cure if clock else record.at
    fill_at = record.at + clock.fill if clock else record.at
    if record.buried:
        name = "buried"
    elif record.proved:
        name = "proved"
    elif now < set_at:
        name = "setting"
    else:
        name = "curing" if now < cured_at else "cured"
    return JointState(
        joint.id, name, record.by, record.at, set_at, cured_at, matches, tuple(record.overrides), record.looked, fill_at,
        record.proved,
    )  # fmt: skip
