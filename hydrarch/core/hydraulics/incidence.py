"""Which links meet at which nodes, and the head matrix that follows: one symmetric pattern, filled and factorised again
and again.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import chain
from typing import Protocol, cast

import numpy as np
from scipy.linalg.lapack import dpotrf, dpotrs
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.hydraulics.links import Array

__all__ = ["Factors", "Incidence", "factorise"]

_SMALL = 100
"""Unknown heads up to which their matrix is factorised whole."""


class Incidence:
    """Which links meet at which free nodes, with the pattern of the head matrix worked out once."""

    def __init__(self, ends: list[tuple[str, str]], free: list[str], known: dict[str, float]) -> None:
        self.nodes = len(free)
        place = dict.fromkeys(known, -1) | dict(zip(free, range(self.nodes), strict=True))
        both_ends = np.fromiter(map(place.__getitem__, chain.from_iterable(ends)), dtype=np.int64, count=2 * len(ends))
        self.start, self.stop = both_ends.reshape(-1, 2).T
        self.fixed = np.zeros(len(ends))
        self._bound = [(int(link), *ends[link]) for link in np.flatnonzero((self.start < 0) | (self.stop < 0))]
        self.stand(known)
        self._from = np.where(
            self.start < 0, self.nodes, self.start
        )  # all known heads share one place beyond the free nodes
        self._to = np.where(self.stop < 0, self.nodes, self.stop)
        i, j = self.start, self.stop
        both, links = (i >= 0) & (j >= 0), np.arange(len(ends))
        rows = np.concatenate([i[i >= 0], j[j >= 0], i[both], j[both]])
        columns = np.concatenate([i[i >= 0], j[j >= 0], j[both], i[both]])
        self._link = np.concatenate([links[i >= 0], links[j >= 0], links[both], links[both]])
        single, double = int(np.sum(i >= 0) + np.sum(j >= 0)), 2 * int(np.sum(both))
        self._sign = np.concatenate([np.ones(single), -np.ones(double)])
        pattern = csc_array((np.ones(len(rows)), (rows, columns)), shape=(self.nodes, self.nodes))
        pattern.sum_duplicates()
        pattern.sort_indices()
        self._matrix = pattern
        column_of = np.repeat(np.arange(self.nodes), np.diff(pattern.indptr))
        order = column_of.astype(np.int64) * max(self.nodes, 1) + pattern.indices
        self._slot = np.searchsorted(order, columns.astype(np.int64) * max(self.nodes, 1) + rows)

    def stand(self, known: dict[str, float]) -> None:
        """Take what the known heads (m) are."""
        for link, a, b in self._bound:
            self.fixed[link] = known.get(a, 0.0) - known.get(b, 0.0)

    def matrix(self, conductance: Array) -> csc_array:
        """The head matrix for links of that conductance (m²/s): one object, filled anew each time."""
        entries = np.bincount(self._slot, self._sign * conductance[self._link], minlength=len(self._matrix.indices))
        self._matrix.data = entries.astype(np.float64, copy=False)
        return self._matrix

    def outflow(self, q: Array) -> Array:
        """Net flow out of every free node through the links."""
        away = np.bincount(self._from, q, minlength=self.nodes + 1)
        back = np.bincount(self._to, q, minlength=self.nodes + 1)
        return np.asarray((away - back)[: self.nodes], dtype=np.float64)

    def factors(self, conductance: Array) -> Factors:
        """The head matrix factorised, for links of that conductance (m²/s)."""
        return factorise(self.matrix(conductance))

    def along(self, heads: Array) -> Array:
        """How much more falls along each link where the free nodes' heads change so (m)."""
        padded = np.append(heads, 0.0)
        return np.asarray(padded[self.start] - padded[self.stop])

    def drop(self, heads: Array) -> Array:
        """Head at a link's start less that at its stop."""
        return self.along(heads) + self.fixed


class Factors(Protocol):
    """A matrix in its factors."""

    def solve(self, right: Array) -> Array:
        """What it must be multiplied with to give `right`."""


@dataclass(frozen=True, slots=True)
class _Dense:
    """The factor of Cholesky of a small matrix: there it takes a fifth of the time of a sparse one."""

    factor: Array

    def solve(self, right: Array) -> Array:
        return np.asarray(dpotrs(self.factor, right, lower=1)[0])


def factorise(matrix: csc_array) -> Factors:
    """A symmetric positive definite matrix in its factors. Raises `HydrarchError` where it is singular."""
    unknown = "some part of the network has no way to a source, so its pressure is not known"
    if 0 < matrix.shape[0] <= _SMALL:
        factor, info = dpotrf(matrix.toarray(), lower=1, overwrite_a=1, clean=0)
        if info == 0:  # else it is singular, or too ill set out for this: the other way tells
            return _Dense(np.asarray(factor))
    try:
        return cast(
            "Factors", splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
        )
    except RuntimeError as error:
        raise HydrarchError(unknown) from error
