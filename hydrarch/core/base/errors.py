"""The one error tree of the core.

    HydrarchError
    ├── OutOfRange      a number outside what a formula or table covers
    ├── Unknown         a name that is not in a catalogue or plan; carries the nearest ones
    ├── AskedBack       a question that wants one thing more before it can be answered
    ├── BadQuantity     text that is not a quantity of the kind wanted
    └── BadRow          a row of a data file that does not hold together

What a crew can mend in a plan is a `Problem` in a result, not an exception.
"""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches

__all__ = ["AskedBack", "BadQuantity", "BadRow", "HydrarchError", "OutOfRange", "Unknown"]


class HydrarchError(ValueError):
    """Base of every error the core raises; `str()` is fit to be shown to a crew."""


class OutOfRange(HydrarchError):
    """`field` has `value`, outside `low` to `high` (in `unit`).

    `told` says it again in the units of each system, if it has units.
    """

    def __init__(
        self, field: str, value: float, low: float, high: float, unit: str = "", told: dict[str, str] | None = None
    ) -> None:
        self.field, self.value, self.low, self.high, self.unit, self.told = field, value, low, high, unit, told or {}
        plain = f"{field} is {value:g} {unit}".rstrip() + f"; it must lie between {low:g} and {high:g}"
        super().__init__(self.told.get("metric", plain))


class Unknown(HydrarchError):
    """There is no `kind` called `name`; `near` are the closest names that exist."""

    def __init__(self, kind: str, name: str, known: Iterable[str] = ()) -> None:
        self.kind, self.name = kind, name
        self.near = get_close_matches(name, list(known), n=3, cutoff=0.5)
        hint = f"; did you mean {' or '.join(self.near)}?" if self.near else ""
        super().__init__(f"there is no {kind} called '{name}'{hint}")


class AskedBack(HydrarchError):
    """A question in words that cannot be answered yet; it says what is wanting, and how to say it."""


class BadQuantity(HydrarchError):
    """`text` cannot be read as a `quantity`; `mend` says what would do."""

    def __init__(self, text: str, quantity: str, mend: str) -> None:
        self.text, self.quantity, self.mend = text, quantity, mend
        super().__init__(f"'{text}' is not {'an' if quantity[:1] in 'aeiou' else 'a'} {quantity}: {mend}")


class BadRow(HydrarchError):
    """Line `line` of data file `file` is refused because of `reason`."""

    def __init__(self, file: str, line: int, reason: str) -> None:
        self.file, self.line, self.reason = file, line, reason
        super().__init__(f"{file}, line {line}: {reason}")
