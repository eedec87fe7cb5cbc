"""Which joints a place of the drawing has: what leaks at a pipe, or is cut there, is said of all of them."""

from __future__ import annotations

from collections.abc import Iterable

from hydrarch.core.joining.assembled import Joint
from hydrarch.core.record.events import Event
from hydrarch.core.record.log import Log
from hydrarch.core.site.layout import Layout

__all__ = ["joints_hit", "runs_of_joint"]


def runs_of_joint(joint: Joint, lay: Layout) -> tuple[str, ...]:
    """The runs a joint is on: the one it lies in or ends, else all that meet at its point."""
    run = joint.run or (None if joint.end is None else lay.run_of.get(joint.end))
    if run in lay.lines:
        return (str(run),)
    return tuple(r for r in lay.at.get(joint.point or "", ()) if r in lay.lines)


def joints_hit(event: Event, joints: Iterable[Joint], lay: Layout, log: Log) -> tuple[str, ...]:
    """The joints, by name, that a leak or a mend is about: those it names; of a point or run all that are there; of an
    earlier record those of that.

    A fault that was found, and is no leak, is about none; nor is a mend for which nothing was opened, but of a leak:
    what leaked is tested again, however it was mended.
    """
    if event.kind == "observed" and (event.seen is None or event.seen.what != "found" or event.seen.word != "leak"):
        return ()
    if event.joints:
        return tuple(event.joints)
    earlier = next((e for e in log.events if e.id == event.of), None)
    if earlier is not None and earlier.joints:
        return tuple(earlier.joints)
    if event.kind == "mended" and not event.count:
        return ()
    place = event.of if earlier is None else earlier.of
    known = tuple(joints)
    if any(j.point == place for j in known):
        return tuple(j.id for j in known if j.point == place)
    return tuple(j.id for j in known if place in runs_of_joint(j, lay))
