"""What would change if a plan were another one: for trying a demand, a level, a speed or a size before it is kept."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.derivation.chain import Derived
from hydrarch.core.plan.document import Plan

__all__ = ["Outcome", "SizeChange", "WhatIf", "compare_plans"]


@dataclass(frozen=True, slots=True)
class Outcome:
    """A scenario before and after: its worst outlet, what that has over its need (Pa) and whether it is short, and all
    the water drawn (m³/s).
    """

    scenario: str
    worst_before: str
    margin_before: float | None
    worst_after: str
    margin_after: float | None
    flow_before: float
    flow_after: float
    short_after: bool


@dataclass(frozen=True, slots=True)
class SizeChange:
    """A run that would get another size, and why."""

    run: str
    before: str
    after: str
    why: str


@dataclass(frozen=True, slots=True)
class WhatIf:
    """All that would change: scenarios, sizes, the price of fittings and pipe, and whether anything goes wrong that did
    not.
    """

    outcomes: tuple[Outcome, ...]
    sizes: tuple[SizeChange, ...]
    price_before: float
    price_after: float
    worse: bool
    says: str


def compare_plans(now: Derived, then: Derived, plan: Plan) -> WhatIf:
    """What `then` (of `plan`) has that `now` has not."""
    names = plan.names
    outcomes = []
    for name, after in then.sizes.flows.items():
        before = now.sizes.flows.get(name)
        outcomes.append(
            Outcome(
                scenario=after.name,
                worst_before=names.get(before.worst or "", "") if before else "",
                margin_before=before.outlets[before.worst].margin if before and before.worst else None,
                worst_after=names.get(after.worst or "", ""),
                margin_after=after.outlets[after.worst].margin if after.worst else None,
                flow_before=sum(o.flow for o in before.outlets.values()) if before else 0.0,
                flow_after=sum(o.flow for o in after.outlets.values()),
                short_after=after.outlets[after.worst].short if after.worst else False,
            )
        )
    changes = tuple(
        SizeChange(run, now.sizes.choices[run].size, c.size, c.says)
        for run, c in then.sizes.choices.items()
        if run in now.sizes.choices and now.sizes.choices[run].size != c.size
    )
    prices = [sum(r.price or 0.0 for r in d.bill) for d in (now, then)]
    new = {p.says for p in then.problems()} - {p.says for p in now.problems()}
    says = " ".join(sorted(new)) if new else "Nothing new goes wrong."
    return WhatIf(tuple(outcomes), changes, prices[0], prices[1], bool(new), says)
