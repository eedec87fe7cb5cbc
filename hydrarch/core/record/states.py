"""What has been done to each joint, folded from events that are only ever added.

A joint is recorded under its name. A joint along a length of pipe has two, one from each end, since either end may
change; the record is found by either, and an event that finds it by the other says so (`was`), so that folding needs no
drawing.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from hydrarch.core.joining.assembled import Joint
from hydrarch.core.making.steps import joint_cure, mend_wait
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, JointMark, JointSpot, standing_events
from hydrarch.core.record.proof import TestNeed, clashing_tests, test_end

__all__ = [
    "MADE",
    "JointState",
    "LostJoint",
    "Mend",
    "Otherwise",
    "Record",
    "SeenLeak",
    "StateName",
    "fold_event",
    "fold_events",
    "fold_joints",
    "joint_state",
    "lost_joints",
    "mark_joints",
    "records_of",
    "spoken_state",
]

StateName = Literal["planned", "dry", "setting", "curing", "cured", "proved", "buried", "leaks"]
MADE: tuple[StateName, ...] = ("setting", "curing", "cured", "proved", "buried", "leaks")


@dataclass(frozen=True, slots=True)
class Otherwise:
    """What somebody else said of a joint that does not go with what stands: who, when (s since 1970), what, in words,
    and by which event.

    Where it `contradicts`, the joint counts as neither tested nor fit for water until one of the two records is
    withdrawn, or it is made again.
    """

    by: str
    at: float
    what: str
    event: str
    contradicts: bool


@dataclass(frozen=True, slots=True)
class SeenLeak:
    """A leak that was seen at a joint, or at its pipe: by which event, by whom and when (s since 1970)."""

    event: str
    by: str
    at: float


@dataclass(frozen=True, slots=True)
class Mend:
    """What was done to a joint, or to its pipe, after it leaked or broke: by whom, when (s since 1970), in words, and
    whether pipe was opened for it: then it waits anew.
    """

    event: str
    by: str
    at: float
    says: str
    opened: bool = True


@dataclass(frozen=True, slots=True)
class JointState:
    """Where a joint stands at one moment. `set_at` and `cured_at` are seconds since 1970, None where nothing waits.

    `fill_at` is when water may come to it slowly, before it takes its test at `cured_at`. `matches` is False when the
    joint was made to another definition than the plan has now; `looked` is when it was last seen dry under water,
    `looked_over` whether that was said with its gate shut, for a reason; `proved` whether it is made as the drawing has
    it, cured, and held by a valid test that nothing contradicts, buried or not; `purpose` why it was left dry, where it
    was left so on purpose. `others` is what others said of it that does not go with that, `event` the event that its
    state comes from, `clash` what contradicts itself in its record, in words. `doubt` is how much (s) earlier it may
    have been made, where the clock of the device that said so was changed; `spot` where it was drawn when it was made,
    None where no record says. `level` is the invert (m) read there last since it was made or set down, `level_at` when
    and `level_by` by whom. `leak` is what was seen of a leak that nobody mended yet: such a joint proves nothing,
    whatever test it had. `mend` is the last mend since it was made, by which pipe was opened: what was tested or buried
    before it was so no more. `covered` is whether it is buried, `times` how often it was made, `rushed` whether it saw
    a test before it was cured.
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
    event: str = ""
    clash: str = ""
    doubt: float | None = None
    looked_over: bool = False
    spot: JointSpot | None = None
    level: float | None = None
    level_at: float | None = None
    level_by: str = ""
    leak: SeenLeak | None = None
    mend: Mend | None = None
    covered: bool = False
    times: int = 0
    rushed: bool = False


@dataclass(frozen=True, slots=True)
class LostJoint:
    """A joint that was made and that the drawing no longer has: its id, where it was as far as that is known, by whom
    and when.
    """

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
    event: str = ""
    doubt: float | None = None
    temperature: float | None = None
    signature: str = ""
    also: str = ""
    where: str = ""
    spot: JointSpot | None = None
    level: tuple[float, float, str, bool] | None = None
    tests: list[tuple[Event, str]] = field(default_factory=list)
    buried: bool = False
    looked: float | None = None
    looked_over: bool = False
    purpose: str = ""
    overrides: list[str] = field(default_factory=list)
    others: list[Otherwise] = field(default_factory=list)
    leak: SeenLeak | None = None
    mend: Mend | None = None
    made: int = 0
    early: float | None = None


def fold_joints(
    plan: Plan,
    joints: Iterable[Joint],
    records: Mapping[str, Record],
    now: float,
    needs: Mapping[str, TestNeed],
    refused: Container[str] = (),
) -> dict[str, JointState]:
    """The state at `now` of every joint anything was done to, from what each has come to; any other is planned.

    `needs` is what must have been come to by a test that proves each joint; `refused` are tests that prove nothing by
    their readings. Making a joint again takes its proof away, as does a test that failed.
    """
    known = tuple(joints)
    mine = records_of(known, records)
    return {
        j.id: _state(plan, j, records[mine[j.id]], now, needs.get(j.id, TestNeed()), refused)
        for j in known
        if j.id in mine
    }


def records_of(joints: Iterable[Joint], records: Mapping[str, Record]) -> dict[str, str]:
    """The name under which each joint that has a record has it: its own, or its other one where no joint has that for
    its own.
    """
    known = tuple(joints)
    found: dict[str, str] = {j.id: j.id for j in known if j.id in records}
    free = {name: r for name, r in records.items() if name not in found}
    if free:
        by_also = {r.also: name for name, r in free.items() if r.also}
        for j in known:
            if j.also is None or j.id in found:
                continue
            name = next(
                (n for n in (j.also if j.also in free else None, by_also.get(j.id), by_also.get(j.also)) if n in free),
                None,
            )
            if name is not None:
                found[j.id] = name
                del free[name]
    return found


def mark_joints(
    joints: Iterable[Joint], names: Iterable[str], records: Mapping[str, Record], place: bool
) -> dict[str, JointMark]:
    """What an event says of the joints it names: those of the drawing by their names now, any other as a lost joint.

    `place` is whether it is told where each was.
    """
    known = tuple(joints)
    recorded = records_of(known, records)
    by_name = {n: j for j in known for n in reversed(j.names)} | {str(j.id): j for j in known}
    by_record = {r: j for j in known if (r := recorded.get(j.id)) is not None}
    found: dict[str, JointMark] = {}
    for name in names:
        joint = by_name.get(name) or by_record.get(name)
        if joint is None:
            old = records.get(name)
            found[name] = JointMark(where=old.where if old is not None and place else "")
            continue
        was = recorded.get(joint.id, "")
        where = f"{joint.place}, towards {joint.towards}" if joint.towards else joint.place
        found[joint.id] = JointMark(
            joint.signature, joint.also or "", was if was != joint.id else "", where if place else ""
        )
    return found


def lost_joints(joints: Iterable[Joint], records: Mapping[str, Record]) -> tuple[LostJoint, ...]:
    """What was made, and not undone, and is no joint of the drawing any more; the earliest first."""
    there = set(records_of(joints, records).values())
    lost = [
        LostJoint(name, r.where or "not told where", r.by, r.at)
        for name, r in records.items()
        if name not in there and r.state == "made" and r.at is not None
    ]
    return tuple(sorted(lost, key=lambda x: (x.at, x.joint)))


def fold_events(events: Iterable[Event]) -> dict[str, Record]:
    """What each joint named in events that nobody withdrew has come to, taken in the order they happened."""
    records: dict[str, Record] = {}
    for event in standing_events(events):
        fold_event(records, event)
    return records


def fold_event(records: dict[str, Record], event: Event) -> None:
    """Add one event, no earlier than those before it, to what joints have come to."""
    for name, mark in event.joints.items():
        if mark.was and mark.was in records and name not in records:
            records[name] = records.pop(mark.was)
        record = records.setdefault(name, Record())
        record.also, record.where = mark.also or record.also, mark.where or record.where
        if event.kind == "made":
            record.spot = mark.spot
        _apply(record, event, mark.signature)


def joint_state(states: Mapping[str, JointState], name: str) -> JointState:
    """The state of a joint among those that anything was done to: planned where nothing was."""
    return states.get(name) or JointState(
        joint=name, state="planned", by="", at=None, set_at=None, cured_at=None, matches=True, overrides=()
    )


def spoken_state(joint: JointState) -> str:
    """Where a joint stands, in words that promise no more than its record shows."""
    if joint.clash:
        return f"its records contradict: {joint.clash}"
    if joint.state == "leaks":
        return "LEAKS, not mended" + (", buried" if joint.covered else "")
    if joint.state in MADE and not joint.matches:
        return "made to another drawing than this one"
    if joint.state in MADE and joint.mend is not None and not joint.proved and joint.looked is None:
        return "mended, not tested since" + (", buried" if joint.covered else "")
    seen = joint.looked is not None and not joint.looked_over
    return {
        "planned": "not made",
        "dry": f"LEFT DRY on purpose: {joint.purpose}" if joint.purpose else "DRY, not made",
        "setting": "setting: do not touch",
        "curing": "curing",
        "cured": "made, no leak seen in use" if seen else "made, not tested",
        "proved": "tested",
        "buried": "tested and buried" if joint.proved else "buried, not tested",
        "leaks": "LEAKS, not mended",
    }[joint.state]


def _apply(record: Record, event: Event, signature: str) -> None:
    if event.override:
        record.overrides.append(event.override)
    if record.state == "made" and record.at is not None and event.by != record.by:
        if event.kind == "made":
            record.others.append(Otherwise(record.by, record.at, "made it", record.event, False))
        elif event.kind in ("dry_fitted", "left_dry"):
            what = "left it dry" if event.kind == "left_dry" else "only fitted it dry"
            record.others.append(Otherwise(event.by, event.at, what, event.id, True))
    match event.kind:
        case "dry_fitted" | "left_dry" if record.state != "made":
            record.state, record.at, record.by, record.event = "dry", event.at, event.by, event.id
            record.purpose = event.note.strip() if event.kind == "left_dry" else ""
        case "levelled" if event.level is not None:
            record.level = (event.level, event.at, event.by, record.state == "made")
        case "made":
            if record.level is not None:  # read as it was set down, it stays; what is made anew lies anew
                record.level = None if record.level[3] else (*record.level[:3], True)
            record.state, record.at, record.by, record.event = "made", event.at, event.by, event.id
            record.temperature, record.signature, record.purpose = event.temperature, signature, ""
            record.doubt = event.doubt
            record.tests, record.buried, record.looked, record.leak, record.mend = [], False, None, None, None
            record.made, record.early = record.made + 1, None
            record.others = [o for o in record.others if not o.contradicts]
        case "undone":
            record.level = None
            record.state, record.at, record.by, record.event, record.purpose = (
                "planned",
                event.at,
                event.by,
                event.id,
                "",
            )
            record.tests, record.buried, record.looked, record.others = [], False, None, []
            record.leak, record.mend = None, None
        case "looked" if record.state == "made":
            record.looked, record.looked_over = event.surely, bool(event.override)
        case "tested" if record.state == "made":
            record.tests.append((event, signature))
            if not event.simulated:
                record.early = event.at if record.early is None else min(record.early, event.at)
        case "buried":
            record.buried = True
        case "leaked":
            record.leak, record.looked = SeenLeak(event.id, event.by, event.at), None
        case "observed" if event.seen is not None and event.seen.what == "found":
            record.leak, record.looked = SeenLeak(event.id, event.by, event.at), None
        case "mended":
            record.leak = None
            record.mend = Mend(event.id, event.by, event.at, event.note.strip(), bool(event.count))
            record.tests, record.buried, record.looked = [], False, None


def _state(plan: Plan, joint: Joint, record: Record, now: float, need: TestNeed, refused: Container[str]) -> JointState:
    matches = record.state != "made" or record.signature == joint.signature
    if record.state != "made" or record.at is None:
        return JointState(
            joint=joint.id,
            state="dry" if record.state == "dry" else "planned",
            by=record.by,
            at=record.at,
            set_at=None,
            cured_at=None,
            matches=matches,
            overrides=tuple(record.overrides),
            purpose=record.purpose,
            event=record.event,
            leak=record.leak,
            mend=record.mend,
            times=record.made,
            **_levelled(record),
        )
    clock = joint_cure(plan, joint, need.test, record.temperature)
    set_at = record.at + clock.set if clock else record.at
    cured_at = record.at + clock.cure if clock else record.at
    fill_at = record.at + clock.fill if clock else record.at
    rushed = record.early is not None and record.early < cured_at
    if record.mend is not None and record.mend.opened:
        again, since = mend_wait(plan, joint, need.test), record.mend.at
        if again is not None:
            set_at, cured_at, fill_at = (
                max(mine, since + wait)
                for mine, wait in ((set_at, again.set), (cured_at, again.cure), (fill_at, again.fill))
            )
    clash = _clash(record)
    proved = matches and not clash and record.leak is None and _held(record, joint, need, cured_at, refused)
    looked = record.looked
    if looked is not None and looked < fill_at and not record.looked_over:
        looked = None  # there could be no water in it yet
    if need.apart and looked is not None and any(t.at > looked for t, _ in record.tests):
        looked = None  # it was off, or parted, since it was seen dry
    if record.leak is not None:
        name: StateName = "leaks"
    elif record.buried:
        name = "buried"
    elif proved:
        name = "proved"
    elif now < set_at:
        name = "setting"
    else:
        name = "curing" if now < cured_at else "cured"
    return JointState(
        joint=joint.id,
        state=name,
        by=record.by,
        at=record.at,
        set_at=set_at,
        cured_at=cured_at,
        matches=matches,
        overrides=tuple(record.overrides),
        looked=looked,
        fill_at=fill_at,
        proved=proved,
        others=tuple(record.others),
        event=record.event,
        clash=clash,
        doubt=record.doubt,
        looked_over=record.looked_over,
        spot=record.spot,
        leak=record.leak,
        mend=record.mend,
        covered=record.buried,
        times=record.made,
        rushed=rushed,
        **_levelled(record),
    )


def _levelled(record: Record) -> dict[str, Any]:
    level, at, by, _ = record.level or (None, None, "", False)
    return {"level": level, "level_at": at, "level_by": by}


def _held(record: Record, joint: Joint, need: TestNeed, cured_at: float, refused: Container[str]) -> bool:
    """Whether a valid test held the joint as it is now, and none failed at the same time or since."""
    good = [
        t
        for t, signature in record.tests
        if t.passed
        and t.id not in refused
        and need.met_by(t)
        and t.surely >= cured_at
        and signature in ("", joint.signature)
    ]
    bad = [t for t, _ in record.tests if not t.passed and not t.simulated]
    return any(all(test_end(f) <= t.surely for f in bad) for t in good)


def _clash(record: Record) -> str:
    """What contradicts itself in a joint's record; "" where nothing does."""
    dry = next((o for o in record.others if o.contradicts), None)
    if dry is not None:
        return f"{record.by or 'somebody'} made it, {dry.by or 'somebody'} {dry.what} after that"
    return next(iter(clashing_tests(t for t, _ in record.tests).values()), "")
