"""A fused PPR joint: what too much depth or too much heat does to the bore, and what that does to the flow."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi, sqrt

from hydrarch.core.base.units import STANDARD_GRAVITY, check_range
from hydrarch.core.catalogue.fittings import end, insert_loss_coefficient
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.making.steps import fusion_times, other_mark

__all__ = ["FusedJoint", "fused_joint"]

_MELT = 0.09
"""Share of the wall that is soft, each side, after the table's own heating time; grows with the root of time. From
memory."""


@dataclass(frozen=True, slots=True)
class FusedJoint:
    """A joint made so: bore left (m) of the pipe's, the height of its inner bead (m), loss coefficient, head lost (m),
    verdict.

    `marks` (m) are the depths it is marked at by printed lists, the one that is used first. `good` is whether
    it is as it should be; `same_as` (m) is the length of straight pipe that would lose as much.
    """

    bore: float
    left: float
    bead: float
    coefficient: float
    loss: float
    same_as: float
    good: bool
    verdict: str
    marks: tuple[float, ...]
    source: str


def fused_joint(series: str, size: str, depth: float, heating: float, flow: float) -> FusedJoint:
    """Push a pipe of a PPR series `depth` (m) into its fitting after `heating` (s), and let `flow` (m³/s) through.

    The soft layer is taken to grow with the root of the heating time, and what is pushed beyond the marked depth, with
    the outer bead's share, to fold inward as an even ring: a simple picture of what is seen when such joints are cut
    open, not a measurement. Depth 0 to twice the marked one, heating 0 to five times the table's. Raises `OutOfRange`.
    """
    item, socket = pipe(series, size), end(f"fusion:socket:{size}")
    right = fusion_times(size)["heat"]
    check_range("depth", depth, 0, 2 * socket.engagement, "takeoff")
    check_range("heating", heating, 0, 5 * right, "seconds")
    other = other_mark(size)
    marks = (socket.engagement, *(() if other is None else (other,)))
    wall = (item.outside - item.bore) / 2
    soft = min(1.0, _MELT * sqrt(heating / right)) * wall if heating > 0 else 0.0
    pushed = max(0.0, depth - 0.97 * socket.engagement)  # the last of the marked depth already rolls a little
    volume = 2 * soft * pi * item.outside * pushed + 0.25 * soft * soft * pi * item.bore
    ring = max(2 * soft + 0.35 * pushed, 1e-4)  # how far along the pipe the ring spreads; from memory
    radius = item.bore / 2
    inner = radius**2 - volume / (pi * ring)
    left = 2 * sqrt(inner) if inner > (0.05 * radius) ** 2 else 0.0
    if left <= 0:
        return FusedJoint(
            bore=item.bore,
            left=0.0,
            bead=radius,
            coefficient=float("inf"),
            loss=float("inf"),
            same_as=float("inf"),
            good=False,
            verdict="the bore is shut: cut it out",
            marks=marks,
            source=_SOURCE,
        )
    k = insert_loss_coefficient(item.bore, left)
    v = float(velocity(flow, item.bore))
    loss = k * v * v / (2 * STANDARD_GRAVITY)
    verdict = _verdict(depth, socket.engagement, heating, right, left / item.bore)
    return FusedJoint(
        bore=item.bore,
        left=left,
        bead=(item.bore - left) / 2,
        coefficient=k,
        loss=loss,
        same_as=k * item.bore / 0.02,
        good=verdict == _AS_IT_SHOULD,
        verdict=verdict,
        marks=marks,
        source=_SOURCE,
    )


_AS_IT_SHOULD = "a small even double lip, as it should be"
_SOURCE = (
    "Contraction after Crane TP-410 and Borda-Carnot; the bead's growth from memory; f = 0.02 for the length it equals"
)


def _verdict(depth: float, marked: float, heating: float, right: float, share: float) -> str:
    if depth < 0.8 * marked:
        return "too shallow: it may hold and weep later; cut it out"
    if heating < 0.6 * right:
        return "too cold: it sticks and does not fuse; cut it out"
    if share < 0.7:
        return "too deep or too hot: the bead closes the bore; cut it out"
    if share < 0.85 or heating > 1.5 * right:
        return "it holds, and the bead costs flow for ever; the next one shorter"
    return _AS_IT_SHOULD
