"""Carrying records over: events of format 1, which named joints by point and run and signed them in words, to names by
ends.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import Any

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import between_elbows, head_joint, riser_end, saddle_joint, stack_joint
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.pipes import pipe_called, series
from hydrarch.core.derivation.chain import derive
from hydrarch.core.joining.assembled import Joint, Side
from hydrarch.core.plan.upgrades import OldNames, format_of, old_names, open_plan

__all__ = ["Carrying", "RENAMED", "old_signature"]

Body = dict[str, Any]
_HEAD, _SADDLE, _LETTERS = "99", "90", "abcdefgh"

RENAMED: dict[str, str] = {}
"""What fittings and series (by id) were called in format 1, where they are called something else now."""


class Carrying:
    """The records of one job on the way.

    `plans` are its plans as they were stored, the newest first; older ones are looked at only where a joint is not of
    the newer.
    """

    def __init__(self, plans: Iterable[Body]) -> None:
        self._plans = iter(plans)
        self._names: list[OldNames] = []
        self._labels: dict[str, str] = {}
        self._joints: dict[str, Joint] = {}
        self._by_run: dict[str, list[Joint]] = defaultdict(list)
        newest = next(self._plans, None)
        if newest is None or format_of(newest) != 1:
            raise HydrarchError("there is no plan of format 1 to carry records over from")
        self._look_at(newest)
        try:
            joints = derive(open_plan(newest)[0]).assembly.joints
        except HydrarchError:
            joints = ()
        for joint in joints:
            self._joints[joint.id] = joint
            if joint.role == "length":
                self._by_run[joint.run or ""].append(joint)

    def _look_at(self, plan: Body) -> None:
        names = old_names(plan)
        self._names.append(names)
        for point in plan.get("points", []):
            new = names.points[point["id"]]
            self._labels.setdefault(
                new, point.get("name") or f"{point['what']['kind'].replace('_', ' ')} {point['id']}"
            )

    def event(self, old: Body) -> Body:
        """An event as it is kept now."""
        joints = {}
        for name, signature in old.get("joints", {}).items():
            new, where = self._renamed(name)
            joint = self._joints.get(new)
            if joint is None:
                joints[new] = {"where": where}
                continue
            signed = joint.signature if signature == old_signature(joint) else signature and f"as it was: {signature}"
            joints[new] = {"signature": signed, "also": joint.also or "", "where": where}
        section = old.get("section")
        return {**old, "joints": joints, "section": section and self._section(section)}

    def _section(self, old: str) -> str:
        run = old.removeprefix("sec-")
        return f"sec-{next((n.runs[run] for n in self._all_names() if run in n.runs), run)}"

    def _all_names(self) -> Iterator[OldNames]:
        yield from self._names
        for plan in self._plans:
            if format_of(plan) == 1:
                self._look_at(plan)
                yield self._names[-1]

    def _renamed(self, old: str) -> tuple[str, str]:
        """The name of a joint now, and where it was in words; its old name where no plan of the job tells more."""
        first, *rest = old.split(".")
        for names in self._all_names():
            if len(rest) == 2 and first in names.points:
                found = self._at_point(names, first, *rest)
            elif len(rest) == 1 and first in names.runs:
                found = self._along(names.runs[first], rest[0])
            else:
                continue
            if found is not None:
                point = names.points.get(first)
                joint = self._joints.get(found)
                where = self._labels.get(point or "", "") if joint is None else joint.place
                return found, where
        return old, self._labels.get(first, "")

    @staticmethod
    def _at_point(names: OldNames, point: str, run: str, number: str) -> str | None:
        new = names.points[point]
        if number == _SADDLE:
            return saddle_joint(new)
        if run == "riser":
            return head_joint(new) if number == _HEAD else stack_joint(riser_end(new), int(number))
        if run == "between":
            return stack_joint(between_elbows(new), int(number))
        end = names.ends.get((point, run))
        return None if end is None or not number.isdigit() else stack_joint(end, int(number))

    def _along(self, run: str, which: str) -> str | None:
        """A joint along a run: "b2" the second bell, "c2a" the first joint of the second coupling."""
        digits = which[1:].rstrip(_LETTERS)
        if not digits.isdigit():
            return None
        numbers = sorted({j.number for j in self._by_run[run]})
        number = int(digits)
        if not 0 < number <= len(numbers):
            return f"{run}~was~{which}"
        mine = [j for j in self._by_run[run] if j.number == numbers[number - 1]]
        step = which[len(digits) + 1 :]
        place = _LETTERS.index(step) if step else 0
        return mine[place].id if place < len(mine) else f"{run}~was~{which}"


def old_signature(joint: Joint) -> str:
    """The words format 1 signed a joint with."""
    return "|".join((joint.method, *(_old_words(joint, s) for s in (joint.a, joint.b))))


def _old_words(joint: Joint, side: Side) -> str:
    if side.fitting is not None:
        return RENAMED.get(side.fitting, fitting(side.fitting).name)
    if side.pipe is None:
        return side.end
    item = pipe_called(side.pipe)
    family, size = item.series, item.size
    pipe = f"{RENAMED.get(family, series(family).short)} {size} pipe"
    if side.of == riser_end(joint.point or ""):
        return f"threaded riser {size}"
    if joint.role == "saddle":
        return f"side of the {pipe}"
    bell = joint.role == "length" and side.end in (f"solvent:socket:{size}", f"gasket:bell:{size}")
    return "bell of the next length" if bell else pipe
