"""The cheapest sizes of a tree that leave every outlet its head, proved, with the whole curve of cost against source
head.

For each branch the cheapest cost is kept as a step function of the head it needs at its upstream end: children's
functions are added, each size of the run shifts the sum by its loss and its price, and the lower envelope is kept. At
the source the function is the whole curve of cost against head: what a metre of head is worth. With several scenarios
the same sizes must serve them all; then an integer programme is solved (HiGHS), and the gap it leaves is told.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csc_array

from hydrarch.core.base.errors import HydrarchError

__all__ = [
    "TreeRun",
    "SizeOption",
    "Option",
    "Path",
    "SECONDS",
    "Programme",
    "CurveStep",
    "TreeCost",
    "cheapest_programme",
    "cheapest_tree",
]

Array: TypeAlias = NDArray[np.float64]
Rows: TypeAlias = NDArray[np.int64]
SECONDS = 20.0  # the longest the programme may take
_GRAIN = 1e-9


@dataclass(frozen=True, slots=True)
class Option:
    """A size a run may have: its price, and the head (m) it loses."""

    name: str
    cost: float
    loss: float


@dataclass(frozen=True, slots=True)
class TreeRun:
    """A run with its options, the head (m) wanted at its far end (−inf: none), and what hangs there."""

    run: str
    options: tuple[Option, ...]
    need: float = -np.inf
    children: tuple[TreeRun, ...] = ()


@dataclass(frozen=True, slots=True)
class CurveStep:
    """A point of the curve: with `head` (m) at the source the tree costs `cost`."""

    head: float
    cost: float


@dataclass(frozen=True, slots=True)
class _Node:
    """A step function at one place, head growing and cost falling, and which rows below each row came from."""

    head: Array
    cost: Array
    run: str | None
    option: Rows | None
    names: tuple[str, ...]
    below: Rows
    parts: tuple[_Node, ...]


@dataclass(frozen=True, slots=True)
class TreeCost:
    """The curve at the source, least head and dearest first."""

    steps: tuple[CurveStep, ...]
    root: _Node

    def within(self, head: float) -> int | None:
        """The cheapest step that `head` (m) at the source affords; None where none does."""
        row = int(np.searchsorted(self.root.head, head + _GRAIN, side="right")) - 1
        return row if row >= 0 else None

    def sizes(self, step: int) -> dict[str, str]:
        """The option of every run at one step of the curve."""
        found: dict[str, str] = {}
        stack = [(self.root, step)]
        while stack:
            node, row = stack.pop()
            if node.run is not None and node.option is not None:
                found[node.run] = node.names[int(node.option[row])]
            stack += [(part, int(node.below[row, i])) for i, part in enumerate(node.parts)]
        return found


def cheapest_tree(roots: Sequence[TreeRun]) -> TreeCost:
    """The curve of least cost against head at the source from which all `roots` start; exact.

    Raises `HydrarchError` for a run with no option.
    """
    order: list[TreeRun] = []
    stack = list(roots)
    while stack:
        branch = stack.pop()
        if not branch.options:
            raise HydrarchError(f"run {branch.run} has no size to choose from")
        order.append(branch)
        stack += branch.children
    done: dict[int, _Node] = {}
    for branch in reversed(order):  # children before parents
        end = _join([done[id(c)] for c in branch.children], branch.need)
        done[id(branch)] = _run(branch, end)
    root = _join([done[id(r)] for r in roots], -np.inf)
    steps = tuple(CurveStep(h, c) for h, c in zip(root.head.tolist(), root.cost.tolist(), strict=True))
    return TreeCost(steps, root)


def _run(branch: TreeRun, end: _Node) -> _Node:
    """Shift the function at a run's far end by every size's loss and price, and keep the lower envelope."""
    losses, prices = np.array([o.loss for o in branch.options]), np.array([o.cost for o in branch.options])
    head = (end.head[None, :] + losses[:, None]).reshape(-1)
    cost = (end.cost[None, :] + prices[:, None]).reshape(-1)
    order = np.argsort(head, kind="stable")
    dear = cost[order]
    keep = order[dear < np.append(np.inf, np.minimum.accumulate(dear)[:-1]) - _GRAIN]
    option, below = np.divmod(keep, len(end.cost))
    names = tuple(o.name for o in branch.options)
    return _Node(
        head=head[keep],
        cost=cost[keep],
        run=branch.run,
        option=option,
        names=names,
        below=below.reshape(-1, 1),
        parts=(end,),
    )


def _join(parts: list[_Node], need: float) -> _Node:
    """Add the functions of all that hangs at a place: at every head where a part steps down, the cheapest row
    of each.
    """
    if not parts:
        return _Node(
            head=np.array([need]),
            cost=np.zeros(1),
            run=None,
            option=None,
            names=(),
            below=np.zeros((1, 0), dtype=np.int64),
            parts=(),
        )
    lowest = max(need, *(float(p.head[0]) for p in parts))
    heads = np.unique(np.concatenate([p.head for p in parts]))
    heads = np.append(lowest, heads[heads > lowest + _GRAIN])
    rows = [np.searchsorted(p.head, heads + _GRAIN, side="right") - 1 for p in parts]
    cost = np.sum([p.cost[r] for p, r in zip(parts, rows, strict=True)], axis=0)
    return _Node(
        head=heads, cost=cost, run=None, option=None, names=(), below=np.column_stack(rows), parts=tuple(parts)
    )


@dataclass(frozen=True, slots=True)
class SizeOption:
    """A size a run may have, for the programme: its price, and the head (m) it loses in each scenario."""

    name: str
    cost: float
    losses: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Path:
    """The runs from a source to an outlet in one scenario, and the head (m) that may be lost on the way."""

    scenario: int
    runs: tuple[str, ...]
    allowed: float


@dataclass(frozen=True, slots=True)
class Programme:
    """What the programme found: sizes by run, their cost, and the bound below which no choice can be.

    `sizes` empty: none fits.
    """

    sizes: dict[str, str]
    cost: float
    bound: float
    proved: bool


def cheapest_programme(
    runs: Mapping[str, Sequence[SizeOption]], paths: Sequence[Path], seconds: float = SECONDS
) -> Programme:
    """The cheapest choice for every run so that no path loses more than it may, by HiGHS within `seconds`."""
    columns = [(run, choice) for run, choices in runs.items() for choice in choices]
    place: dict[str, list[int]] = {}
    for i, (run, _) in enumerate(columns):
        place.setdefault(run, []).append(i)
    if not columns:
        return Programme({}, 0.0, 0.0, True)
    one = csc_array(
        (np.ones(len(columns)), ([list(runs).index(r) for r, _ in columns], np.arange(len(columns)))),
        shape=(len(runs), len(columns)),
    )
    limits: list[LinearConstraint] = [LinearConstraint(one, 1, 1)]
    if paths:
        entries = [
            (p, i, columns[i][1].losses[path.scenario])
            for p, path in enumerate(paths)
            for r in path.runs
            for i in place[r]
        ]
        rows, cols, data = zip(*entries, strict=True) if entries else ((), (), ())
        lost = csc_array((data, (rows, cols)), shape=(len(paths), len(columns)))
        limits.append(LinearConstraint(lost, -np.inf, np.array([p.allowed for p in paths]) + _GRAIN))
    cost = np.array([c.cost for _, c in columns])
    found = milp(
        cost,
        constraints=limits,
        integrality=np.ones(len(columns), dtype=np.int64),
        bounds=Bounds(0, 1),
        options={"time_limit": seconds, "mip_rel_gap": 1e-9},
    )
    if found.x is None:
        return Programme({}, np.inf, np.inf, found.status == 2)
    sizes = {run: choice.name for (run, choice), x in zip(columns, found.x, strict=True) if x > 0.5}
    bound = float(found.mip_dual_bound) if found.mip_dual_bound is not None else float(found.fun)
    return Programme(sizes, float(found.fun), bound, found.status == 0)
