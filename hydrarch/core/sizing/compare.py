"""Three ways to size, side by side: the crew's rule of thumb, the smallest that hold, and the least cost proved."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import inf
from typing import Literal

from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.base.units import show, size_value
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.hydraulics.flow import ENOUGH, Flow
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.sizing.bound import BOUND_SECONDS, least_possible
from hydrarch.core.sizing.feeding import CostPoint, Costs, FeedTree, energy_cost
from hydrarch.core.sizing.least_cost import SECONDS
from hydrarch.core.sizing.rules import rule_of_thumb
from hydrarch.core.sizing.select import Sizes

__all__ = ["Comparison", "WayToSize", "compare_sizes"]

_MOST_TRIES = 60  # sizes tried for runs that close loops
_ROUNDS = 4  # between sizes and the flows they leave, in loops


@dataclass(frozen=True, slots=True)
class WayToSize:
    """One way's answer: the size of every run and why, its cost in pipe, fittings and energy, what it leaves, and
    where.

    `margin` (Pa) is what the worst outlet has over what it needs, None where nothing is open; `proved` tells whether no
    cheaper choice exists under the limits, and `says` what is proved and what is not.
    """

    way: Literal["rule", "computed", "least cost"]
    sizes: dict[str, str]
    why: dict[str, str]
    pipe: float
    fittings: float
    energy: float
    margin: float | None
    worst: str | None
    holds: bool
    proved: bool
    says: str


@dataclass(frozen=True, slots=True)
class Comparison:
    """The three ways, the curve of cost against head in the scenario that governs, and the head there is (m)."""

    ways: tuple[WayToSize, ...]
    curve: tuple[CostPoint, ...]
    governs: str
    head: float | None
    worth: str


def compare_sizes(
    plan: Plan, lay: Layout, minor: Mapping[str, float], computed: Sizes, report: Report = unheard
) -> Comparison:
    """All three ways for a plan whose computed sizes and fittings are known.

    `minor` is the sum of loss coefficients K of each run; `report` is told how far the work is. What cannot be compared
    (no source, nothing open) is said in words.
    """
    costs = Costs(plan, lay, minor, computed)
    pipes = computed.pipes()
    report("the rule of thumb and the computed sizes")
    ways = [
        _answer(costs, "rule", *_by_rule(costs)),
        _answer(
            costs,
            "computed",
            {r: p.size for r, p in pipes.items()},
            {r: c.says for r, c in computed.choices.items()},
            False,
            "the smallest that hold, run by run; no cheaper one run at a time",
        ),
    ]
    if not costs.scenarios or not any(m.open for m in costs.scenarios):
        return Comparison(tuple(ways), (), "", None, "Nothing is open in any scenario, so there is nothing to weigh.")
    least = _least_cost(costs, report)
    return Comparison((*ways, least.way), least.curve, least.governs, least.head, least.worth)


def _by_rule(costs: Costs) -> tuple[dict[str, str], dict[str, str], bool, str]:
    sizes, why = {}, {}
    beyond = 0
    for run, options in costs.options.items():
        most = max((abs(f.runs[run].flow) for f in costs.flows.values() if run in f.runs), default=0.0)
        rule = rule_of_thumb(most, costs.lay.lines[run].length)
        if len(options) == 1:
            sizes[run], why[run] = options[0].size, "chosen by the crew"
            continue
        wanted = size_value(rule.size) if rule else inf
        pick = next((p for p in options if size_value(p.size) >= wanted - 1e-9), options[-1])
        if rule is None:
            beyond += 1
            pick = next((p for p in options if size_value(p.size) > 1), options[-1])
            why[run] = "beyond the rule, which ends at 1 in: one size above it"
        else:
            flow, length = (show(x, q, costs.plan.units) for x, q in ((rule.flow, "flow"), (rule.length, "length")))
            why[run] = f"{rule.size} in carries {flow} over {length} by the rule"
        sizes[run] = pick.size
    ends = f"; the rule says nothing of {beyond} runs, being beyond 1 in" if beyond else ""
    return sizes, why, False, f"rule of thumb for drip mains, common practice: no sum stands behind it{ends}"


def _answer(
    costs: Costs,
    way: Literal["rule", "computed", "least cost"],
    sizes: dict[str, str],
    why: dict[str, str],
    proved: bool,
    says: str,
) -> WayToSize:
    items = {r: pipe(costs.options[r][0].series, s) for r, s in sizes.items()}
    flows = [m.solve(items, dict(costs.minor)) for m in costs.scenarios]
    outlets = [(o.margin, o.point) for f in flows for o in f.outlets.values()]
    worst = min(outlets, default=None)
    fast = any(r.fast for f in flows for r in f.runs.values())
    hammered = any(not costs.stands(r.run, items[r.run], r.velocity) for f in flows for r in f.runs.values())
    fittings = sum(costs.fittings(r, p) for r, p in items.items())
    pipe_cost = sum(costs.pipe_cost(r, p) for r, p in items.items())
    short = worst is not None and worst[0] < -ENOUGH
    faults = [
        told
        for told, wrong in (
            ("too fast somewhere", fast),
            ("an outlet is short", short),
            ("a sudden stop goes beyond what a pipe may see", hammered),
        )
        if wrong
    ]
    holds, told = not faults, "; ".join((says, *faults))
    return WayToSize(
        way=way,
        sizes=sizes,
        why=why,
        pipe=pipe_cost,
        fittings=fittings,
        energy=_energy(costs, flows),
        margin=worst[0] if worst else None,
        worst=worst[1] if worst else None,
        holds=holds,
        proved=proved,
        says=told,
    )


def _energy(costs: Costs, flows: list[Flow]) -> float:
    """What the pumps take over the years, the scenarios sharing the hours alike."""
    shares = [sum(energy_cost(costs.plan, q, lift) for q, lift in flow.lifts.values() if q > 0) for flow in flows]
    return sum(shares) / len(shares) if shares else 0.0


@dataclass(frozen=True, slots=True)
class _Least:
    way: WayToSize
    curve: tuple[CostPoint, ...]
    governs: str
    head: float | None
    worth: str


def _least_cost(costs: Costs, report: Report) -> _Least:
    """The cheapest sizes for the flows wanted, over the tree nearest to the source; loops are settled by turns."""
    tree = FeedTree(costs)
    sizes: dict[str, str] = {}
    proved, says = True, ""
    for n in range(_ROUNDS):
        again = f", with the flows of the loop for the {n + 1}. time" if n else ""
        report(f"the cheapest sizes for {len(costs.scenarios)} scenarios, at most {SECONDS:.0f} s{again}")
        curve, governs, head, sizes, proved, says = tree.solve()
        if not tree.chords or not sizes:
            break
        before = tree.taken
        tree.follow(sizes)
        if tree.taken == before:
            break
    if not sizes:
        told = "no choice of sizes leaves every outlet its pressure: the largest pipes were taken"
        sizes = {r: o[-1].size for r, o in costs.options.items()}
        return _Least(
            _answer(costs, "least cost", sizes, dict.fromkeys(sizes, told), False, told), curve, governs, head, told
        )
    if tree.chords:
        report("other sizes for the runs that close a loop")
        sizes = _settled(costs, tree, sizes)
        report(f"how far sizes of a loop may be from the cheapest, at most {BOUND_SECONDS:.0f} s")
        proved, says = _by_bound(costs, tree, sizes)
    if proved and _follows_pressure(costs):
        proved, says = (
            False,
            (
                "the cheapest where each row of emitters passes what it does with the computed sizes; not "
                "proved, for that follows its pressure"
            ),
        )
    why = {r: _why(costs, r, s) for r, s in sizes.items()}
    return _Least(
        _answer(costs, "least cost", sizes, why, proved, says), curve, governs, head, _worth(costs, curve, head)
    )


def _follows_pressure(costs: Costs) -> bool:
    """Whether rows that do not compensate are open somewhere: with smaller pipe they pass less, which the search does
    not allow for.
    """
    opened = {p for m in costs.scenarios for p in m.open}
    return any(isinstance(p.what, DripRow) and p.what.exponent > 0 for p in costs.plan.points if p.id in opened)


def _settled(costs: Costs, tree: FeedTree, sizes: dict[str, str]) -> dict[str, str]:
    """Sizes of a loop that hold when the whole of it is solved, the cheapest found.

    Sizes found by turns may not hold once the water has parted anew; then the computed ones, which do, are where to
    begin. Every size is tried for each run that closes a loop, the others following.
    """

    def holds(found: dict[str, str]) -> bool:
        return _answer(costs, "least cost", found, {}, False, "").holds

    best = min((s for s in (sizes, costs.computed) if holds(s)), key=lambda s: _price(costs, s), default=sizes)
    tries = [(run, item.size) for run in tree.chords for item in costs.allowed(run)]
    for chord, size in tries[:_MOST_TRIES]:
        if size == best[chord]:
            continue
        tree.follow({**best, chord: size})
        *_, found, _, _ = tree.solve()
        if found and _price(costs, found) < _price(costs, best) - 1e-9 and holds(found):
            best = found
    tree.follow(best)
    return best


def _price(costs: Costs, sizes: Mapping[str, str]) -> float:
    return sum(costs.price(r, pipe(costs.options[r][0].series, s)) for r, s in sizes.items())


def _by_bound(costs: Costs, tree: FeedTree, sizes: dict[str, str]) -> tuple[bool, str]:
    """Whether sizes found by turns are proved the cheapest, or what could still be saved at the most."""
    cost = _price(costs, sizes)
    bound = least_possible(costs.loop_runs(), [tree.relaxed(s) for s in range(len(costs.scenarios))])
    gap = cost - bound
    if gap <= 1e-4 * cost:
        return True, "proved: no sizes cost less, whichever way the water goes round the loop"
    closing = f"{len(tree.chords)} run{'s' if len(tree.chords) > 1 else ''}"
    return False, (
        f"the cheapest found with every size tried for {closing} that close a loop; not proved, but no "
        f"choice at all costs less than {bound:.2f}, so at most {gap:.2f} could still be saved"
    )


def _why(costs: Costs, run: str, size: str) -> str:
    options = costs.options[run]
    if len(options) == 1:
        return "chosen by the crew"
    cheapest = min(costs.allowed(run), key=lambda p: costs.price(run, p))
    if size == cheapest.size:
        return "the cheapest that keeps the velocity limit and stands a sudden stop"
    return f"dearer than {cheapest.size}, which would lose head that costs more elsewhere"


def _worth(costs: Costs, curve: tuple[CostPoint, ...], head: float | None) -> str:
    """What a metre of head is worth: how much the tree gets cheaper with one more."""
    if head is None or not curve:
        return ""
    now = [c for c in curve if c.head <= head + 1e-9]
    more = [c for c in curve if c.head <= head + 1.0 + 1e-9]
    if not now:
        return ""
    saved = now[-1].pipe - more[-1].pipe
    metre = show(1.0, "head", costs.plan.units)
    return f"{metre} more head at the source would make the pipe {saved:.2f} cheaper."
