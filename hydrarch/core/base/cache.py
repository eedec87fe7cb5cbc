"""What is worked out once and remembered, until the catalogue it was worked out from changes."""

from __future__ import annotations

from collections.abc import Callable
from functools import _lru_cache_wrapper, lru_cache
from typing import TypeVar

__all__ = ["forget", "remembered"]

Result = TypeVar("Result")
_ALL: list[_lru_cache_wrapper[object]] = []


def remembered(most: int | None = None) -> Callable[[Callable[..., Result]], _lru_cache_wrapper[Result]]:
    """Remember a function's results by its arguments, the `most` last asked for where that is given."""

    def remember(function: Callable[..., Result]) -> _lru_cache_wrapper[Result]:
        made = lru_cache(most)(function)
        _ALL.append(made)
        return made

    return remember


def forget() -> None:
    """Forget all of it."""
    for made in _ALL:
        made.cache_clear()
