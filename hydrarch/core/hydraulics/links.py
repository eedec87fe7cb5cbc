"""Links of a network and what they lose: pipes, pumps, emitters, regulators, as arrays."""

from __future__ import annotations

from copy import copy
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.hydraulics.friction import (
    METHODS,
    Friction,
    hazen_williams_resistance,
)
from hydrarch.core.hydraulics.water import Water

__all__ = [
    "SMALL_FLOW",
    "Array",
    "Emitter",
    "Friction",
    "Links",
    "PipeLink",
    "PumpLink",
    "RegulatorLink",
    "Rows",
    "Sizes",
]

Array: TypeAlias = NDArray[np.float64]
Rows: TypeAlias = NDArray[np.int64]
Sizes: TypeAlias = tuple[Array, Array, Array, Array]
"""Of some pipes: bores (m), Hazen-Williams constants, roughness (m), sums of loss coefficients."""
SMALL_FLOW = 1e-7
"""m³/s, 0.4 L/h: below it every loss is a straight line, so its slope is never zero."""


@dataclass(frozen=True, slots=True)
class PipeLink:
    """A pipe: `minor` is the sum of its loss coefficients K, `fixed` (s²/m⁵) adds h = fixed·q², `one_way` bars back
    flow.
    """

    id: str
    start: str
    stop: str
    length: float
    bore: float
    hazen_williams_c: float = 150.0
    roughness: float = 1.5e-6
    minor: float = 0.0
    fixed: float = 0.0
    one_way: bool = False


@dataclass(frozen=True, slots=True)
class PumpLink:
    """A pump that lifts from `start` to `stop` by its curve of (flow, head) points, flow growing and head falling."""

    id: str
    start: str
    stop: str
    curve: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Emitter:
    """Water leaving at `node` to the air at `elevation` (m): q = k·h^x with h (m) the pressure head there."""

    id: str
    node: str
    elevation: float
    k: float
    exponent: float


@dataclass(frozen=True, slots=True)
class RegulatorLink:
    """A pressure regulator from `start` to `stop`: it holds `head` (m) beyond it where there is more, and lets nothing
    back.

    With less than `head` before it, it stands open and loses `loss` (m) only.
    """

    id: str
    start: str
    stop: str
    head: float
    loss: float = 0.0


class Links:
    """All links as arrays, with h(q) and its slope. Pipes come first, then pumps, then emitters."""

    def __init__(
        self,
        pipes: tuple[PipeLink, ...],
        pumps: tuple[PumpLink, ...],
        emitters: tuple[Emitter, ...],
        friction: Friction,
        water: Water,
    ) -> None:
        self.friction, self.water = friction, water
        self.length = np.array([p.length for p in pipes])
        self.fixed = np.array([p.fixed for p in pipes])
        given = np.array([(p.bore, p.hazen_williams_c, p.roughness, p.minor) for p in pipes], dtype=np.float64).reshape(
            -1, 4
        )
        self.resize((given[:, 0], given[:, 1], given[:, 2], given[:, 3]))
        self.curves = [_PumpCurve(p.curve) for p in pumps]
        self.emitter_power = 1 / np.array([e.exponent for e in emitters])
        self.emitter_r = np.array([e.k for e in emitters]) ** -self.emitter_power
        self.one_way = np.array([p.one_way for p in pipes] + [True] * len(pumps) + [True] * len(emitters), dtype=bool)
        self.ids = [p.id for p in pipes] + [p.id for p in pumps] + [e.id for e in emitters]

    def resize(self, sizes: Sizes) -> None:
        """Give the pipes other sizes."""
        bore, c, roughness, minor = sizes
        self.bore, self.c, self.roughness, self.k = bore, c, roughness, minor
        self.minor = minor / (2 * STANDARD_GRAVITY * (np.pi * bore**2 / 4) ** 2) + self.fixed
        self.resistance = np.asarray(hazen_williams_resistance(self.length, bore, c))

    def part(self, pipes: Rows, sizes: Sizes) -> Links:
        """Some of the pipes alone, by their numbers, with these sizes."""
        some = copy(self)
        some.length, some.fixed = self.length[pipes], self.fixed[pipes]
        some.resize(sizes)
        some.curves, some.emitter_r, some.emitter_power = [], np.zeros(0), np.zeros(0)
        return some

    def start_flows(self) -> Array:
        """Flows (m³/s) to begin with: water at a foot a second, pumps at half their curve, emitters at ten metres."""
        flows = [0.3 * np.pi * self.bore**2 / 4]
        flows.append(np.array([c.flows[-1] / 2 for c in self.curves]))
        flows.append(self.emitter_r ** (-1 / self.emitter_power) * 10 ** (1 / self.emitter_power))
        return np.concatenate(flows)

    def losses(self, q: Array) -> tuple[Array, Array]:
        """Head loss (m) of every link at flows q, and its slope (s/m²), never zero."""
        n, m = len(self.bore), len(self.bore) + len(self.curves)
        h, slope = np.empty_like(q), np.empty_like(q)
        h[:n], slope[:n] = _straightened(self._pipe, q[:n])
        for i, curve in enumerate(self.curves):
            h[n + i], slope[n + i] = curve(q[n + i])
        h[m:], slope[m:] = _straightened(self._emitter, q[m:])
        return h, slope

    def _pipe(self, q: Array) -> tuple[Array, Array]:
        minor, minor_slope = self.minor * q**2, 2 * self.minor * q
        method = METHODS[self.friction]
        if method.power_law is not None:
            power = self.resistance * q ** (method.exponent - 1)
            return power * q + minor, method.exponent * power + minor_slope

        def loss(flow: Array) -> Array:
            rho, mu = self.water.density, self.water.viscosity
            return np.asarray(method.loss(flow, self.length, self.bore, self.c, self.roughness, rho, mu))

        h, step = loss(q), 1e-6 * q
        return h + minor, (loss(q + step) - h) / step + minor_slope

    def _emitter(self, q: Array) -> tuple[Array, Array]:
        h = self.emitter_r * q**self.emitter_power
        return h, self.emitter_power * h / q


def _straightened(loss, q: Array) -> tuple[Array, Array]:  # type: ignore[no-untyped-def]
    """`loss` for either sign of q, a straight line below the smallest flow worth the name."""
    size = np.abs(q)
    h, slope = loss(np.maximum(size, SMALL_FLOW))
    line = h / SMALL_FLOW
    small = size < SMALL_FLOW
    return np.where(small, line * q, np.sign(q) * h), np.where(small, line, slope)


class _PumpCurve:
    """A pump's curve as a loss: −head(q), smooth and monotone between its points, straight beyond them."""

    def __init__(self, points: tuple[tuple[float, float], ...]) -> None:
        self.flows = np.array([p[0] for p in points])
        self._head = PchipInterpolator(self.flows, [p[1] for p in points])
        self._slope = self._head.derivative()
        self._floor = 1e-3 * (points[0][1] - points[-1][1]) / (self.flows[-1] - self.flows[0])

    def __call__(self, q: float) -> tuple[float, float]:
        inside = float(np.clip(q, self.flows[0], self.flows[-1]))
        slope = max(-float(self._slope(inside)), self._floor)
        return -float(self._head(inside)) + slope * (q - inside), slope
