"""What the steps of a changeover are called, what to mind at each, and why one may not be done."""

from __future__ import annotations

from typing import Literal

from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.changeover.waterway import Stand, Waterway
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.leaving import ChangeoverAct

__all__ = ["MOST_WAYS", "StepWords", "Why"]

MOST_WAYS = 20_000
"""How many ways it can stand are looked at before the search for an order is given up."""
Why = Literal["", "floods", "under-pressure", "not-let-down", "stuck", "taken", "nothing-there", "unfinished"]


class StepWords:
    """What is said of a changeover's steps, with the names of the drawing."""

    def __init__(self, plan: Plan, ways: Waterway) -> None:
        self.plan, self.ways = plan, ways
        self.pipes = {x.id: x for x in plan.leaving}

    def called(self, thing: str) -> str:
        """A thing's name, or what supplies a loop from beyond the drawing."""
        return self.plan.names.get(thing) or (self.pipes[thing].note or "the other supply")

    def says(self, stand: Stand, act: ChangeoverAct) -> tuple[str, str]:
        """What is done, and what to mind."""
        if act.do in ("shut", "open", "let_down"):
            return self._at_gate(act)
        if act.end not in self.ways.ends:
            return "What this step is about is not on the drawing any more.", ""
        end = self.ways.ends[act.end]
        at = self.called(end.point)
        lead = end.sort == "old" and (s := self.pipes[end.pipe].series) is not None and series(s).material == "lead"
        if act.do == "take_off":
            note = "Look for wires and other pipe first; keep the saw off them."
            if self.ways.trapped(stand, end):
                note = "No tap lets the pressure go here: loosen it a little, and let it drip out before it comes off."
            if lead:
                note += " Lead: gloves, no dust, wash hands, and take the cut pieces away as lead."
            return f"Cut the old pipe off at {at}.", note
        if act.do == "join":
            return (
                f"Join the new pipe at {at}.",
                "Clean, square ends; a liner in soft pipe. Its wait before pressure comes on top of this time.",
            )
        if act.do == "cap":
            return f"Cap or crimp the dead pipe at {at}.", "It stays in the ground: write on the plan that it is dead."
        loop = self.pipes[end.pipe]
        if act.do == "connect":
            return (
                f"Connect the temporary loop at {at}.",
                "Hose for drinking water, flushed first, out of the sun and off the way; a check valve at its supply, so "
                "that neither water runs into the other.",
            )
        return (
            f"Take the temporary loop off at {at}.",
            f"Turn the nut slowly, what is in it runs out.{' It goes home again.' if loop.b else ''}",
        )

    def _at_gate(self, act: ChangeoverAct) -> tuple[str, str]:
        if act.thing not in self.plan.names and act.thing not in self.pipes:
            return "What this step is about is not on the drawing any more.", ""
        at = self.called(act.thing)
        if act.do == "let_down":
            return f"Open {at}, the lowest: the pressure goes and the line drains. Shut it again.", ""
        tried = " Nobody said that it turns: try it before the day." if act.thing in self.ways.untried else ""
        if act.do == "shut":
            return f"Shut {at}.", f"Do not force an old valve.{tried}" if act.thing in self.plan.names else ""
        what = (
            "every joint of the loop"
            if act.thing not in self.plan.names or act.thing in self.ways.mouths
            else "every new joint"
        )
        return f"Open {at} slowly.", f"Look at {what}, and feel under it.{tried}"

    def why(self, why: Why, stand: Stand, act: ChangeoverAct) -> str:
        """Why a step may not be done."""
        if why == "floods":
            return f"water would run out {self._outlet(stand, act)}"
        if why == "under-pressure":
            return "the line is under pressure there from a source"
        if why == "not-let-down":
            mine = self.ways.joined(stand.shut, stand.on)
            end = self.ways.ends[act.end]
            tap = next(t for p in (end.at, end.own) if p in stand.pressed and (t := self.ways.tap_of(mine, p)))
            return f"pressure is shut in there: open {self.called(tap)} first"
        if why == "stuck":
            return "this valve does not turn"
        if why == "taken":
            return "the old pipe is still on there"
        return "it is so already, or is not there"

    def _outlet(self, stand: Stand, act: ChangeoverAct) -> str:
        """Where water would come out if a step were done all the same."""
        shut = stand.shut | {act.thing} if act.do == "shut" else stand.shut - {act.thing}
        gone = act.do in ("take_off", "disconnect")
        on = stand.on - {act.end} if gone else stand.on | ({act.end} if act.end else set())
        after = Stand(shut, on, stand.capped, stand.pressed)
        mine, fed = self.ways.joined(shut, on), self.ways.fed(after)
        for place, sort, name in self.ways.open_ends(after):
            if mine[place] in fed:
                if sort == "tap":
                    return f"at {self.called(name)}"
                at = self.called(self.ways.ends[name].point)
                of = {"old": "the old pipe", "cut": "the cut", "new": "the new pipe", "loop": "the loop"}[sort]
                return f"of the open end of {of} at {at}"
        return "there"

    def blocked(self, every: bool) -> tuple[str, str]:
        """The first end that cannot be opened however valves are turned, and why no order works; `every` says that all
        were looked at.
        """
        free = frozenset(self.ways.gates) - self.ways.stuck
        for e in self.ways.ends.values():
            stand = Stand(self.ways.begins.shut | free, self.ways.begins.on, frozenset(), frozenset())
            mine, fed = self.ways.joined(stand.shut, stand.on), self.ways.fed(stand)
            if e.sort != "loop" and mine[e.at] in fed:
                return e.point, f"no valve that turns shuts {self.called(e.point)} off from the source"
        first = next(iter(self.ways.ends.values())).point
        if not every:
            return first, f"none was found among the first {MOST_WAYS} ways it can stand; set the order by hand"
        return first, "every order floods, or leaves something undone"

    def bring(self) -> tuple[str, ...]:
        """What is brought for the loops, and goes home again."""
        told = []
        for x in self.plan.leaving:
            if x.what == "loop":
                ends = " to ".join(self.called(p) for p in (*x.points, *(() if x.b else (x.id,))))
                what = f"{series(x.series).name} {x.size or ''}".strip() if x.series else "hose for drinking water"
                long = "" if x.length is None else f", {show(x.length, 'length', self.plan.units)}"
                told.append(f"{what}{long}, {ends}, with an end that fits each")
        return tuple(told)
