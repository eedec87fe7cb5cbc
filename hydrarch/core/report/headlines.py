"""The answer of a stage in one line that a person could read out: its worst fact first.

No line says enough, complete or holds while something stands that stops the stage or one before it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.base.units import show
from hydrarch.core.derivation.chain import STAGES, Derivation

__all__ = ["says"]


def says(stage: Stage, d: Derivation) -> str:
    """One line for a drawing stage; "" for the stages that tell of the record, and where there is nothing to tell of
    yet.
    """
    if not d.plan.runs:
        return ""
    worst = _worst(d.problems(stage))
    if worst:
        return worst
    match stage:
        case "survey":
            return _survey(d)
        case "size":
            return " ".join(line for line in (_size(d), _drains(d)) if line)
        case "join":
            return _join(d)
        case "cut":
            return _cut(d)
        case _:
            return ""


def _worst(problems: Iterable[Problem]) -> str:
    """What stands in the way, the danger to life first, and how much more does; "" where nothing does."""
    stands = [p for p in problems if p.severity == "stop" and not p.follows]
    if not stands:
        return ""
    first = min(stands, key=lambda p: (not p.danger, STAGES.index(p.stage)))
    more = len(stands) - 1
    return first.says + (f" {_counted(more, 'thing')} more must be fixed before it is built." if more else "")


def _counted(number: int, thing: str) -> str:
    return f"{number} {thing}{'' if number == 1 else 's'}"


def _survey(d: Derivation) -> str:
    plan, length = d.plan, sum(line.length for line in d.layout.lines.values())
    ends = sum(p.kind.role in ("outlet", "drain") for p in plan.points)
    return (
        f"{_counted(len(plan.runs), 'run')}, {show(length, 'length', plan.units)} of pipe, {_counted(ends, 'outlet')}."
    )


def _size(d: Derivation) -> str:
    every = d.sizes.flows.values()
    flows = [flow for flow in every if not any(p.severity == "stop" for p in flow.problems)]
    found = [(flow, outlet) for flow in flows for outlet in flow.outlets.values()]
    unsettled = len(every) - len(flows)
    if not found:
        return f"{_counted(unsettled, 'scenario')} not worked out." if unsettled else ""
    units, names = d.plan.units, d.plan.names
    over, least = min(found, key=lambda f: f[1].margin)
    reached = {o.point for _, o in found}
    short = {o.point for _, o in found if o.short}
    fastest = max((abs(run.velocity) for flow in flows for run in flow.runs.values()), default=0.0)
    if short:
        wants = (
            f"{names[least.point]} wants {show(-least.margin, 'pressure', units)} more in {over.name}; {len(short)} of "
        )
        line = wants + f"{_counted(len(reached), 'outlet')} too weak"
    else:
        spare = show(least.margin, "pressure", units)
        line = (
            f"{_counted(len(reached), 'outlet')} {'has' if len(reached) == 1 else 'have'} enough pressure. "
            f"Tightest: {names[least.point]}, {spare} to spare ({over.name})"
        )
    apart = [f"fastest {show(fastest, 'velocity', units)}"]
    shut = {p.id for p in d.plan.points if p.kind.role == "outlet"} - reached
    if shut:
        apart.append(f"{_counted(len(shut), 'outlet')} open in no scenario or out of the water's reach")
    if unsettled:
        apart.append(f"{_counted(unsettled, 'scenario')} not worked out")
    return f"{line}; {', '.join(apart)}."


def _drains(d: Derivation) -> str:
    if not d.drains:
        return ""
    flows = [run for run in d.drains if not run.cleans_out]
    if not flows:
        return ""
    bad = sum(run.state is None or not run.state.fits for run in flows)
    carries = f"{bad} of them not falling, empty or too small" if bad else "each large enough for its flow"
    return f"{_counted(len(flows), 'run')} of drain, {carries}."


def _join(d: Derivation) -> str:
    assembly = d.assembly
    kinds = Counter(j.method for j in assembly.joints).most_common()
    if not kinds:
        return ""
    made = _listed(f"{n} by {method}" for method, n in kinds)
    return f"{_counted(len(assembly.joints), 'joint')} with {_counted(len(assembly.parts), 'fitting')}: {made}."


def _cut(d: Derivation) -> str:
    cuts, units = d.cuts, d.plan.units
    if not cuts.pieces:
        return ""
    sticks = sum(len(n.sticks) for n in cuts.nests if not n.coil)
    coils = sum(len(n.sticks) for n in cuts.nests if n.coil)
    used = sum(len(n.offcuts) for n in cuts.nests)
    from_ = [_counted(n, thing) for n, thing in ((sticks, "length"), (coils, "coil"), (used, "offcut")) if n]
    total = sum(n.total for n in cuts.nests)
    none = [row.price for row in d.bill].count(None)
    ours, starting = ([r.price for r in d.bill if r.price is not None and r.own is own] for own in (True, False))
    line = f"{_counted(len(cuts.pieces), 'piece')}, {show(total, 'length', units)}: {_listed(from_)}"
    at_ours = f"{sum(ours):.2f}{f' {d.plan.currency}' if d.plan.currency else ''} at your own prices" if ours else ""
    at_start = f"about {sum(starting):.2f} at starting prices" if any(starting) else ""
    cost = f". Priced parts: {_listed([x for x in (at_ours, at_start) if x]) or 'none'}"
    loose = sum(p.slack for p in cuts.pieces)
    slack = (
        f" {show(loose, 'length', units)} of it is slack, a hand in each ten metres: lay it in waves, it "
        "shrinks as it cools."
        if loose
        else ""
    )
    return (
        line
        + cost
        + (f"; {_counted(none, 'part')} {'has' if none == 1 else 'have'} no price." if none else ".")
        + slack
    )


def _listed(things: Iterable[str]) -> str:
    told = list(things)
    return told[0] if len(told) == 1 else f"{', '.join(told[:-1])} and {told[-1]}" if told else "nothing"
