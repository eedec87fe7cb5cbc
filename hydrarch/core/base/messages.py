"""What the rooms tell, as data: titles, details and what to do, in files that a person who writes well can edit.

A message is an entry of a file in `messages/`, under its key: the code of its problem, and after a "/" which of several
ways to tell it. A value is named in braces, a quantity with its kind: "{speed:velocity}" is shown in the crew's units.
"""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from itertools import combinations
from string import Formatter
from typing import Protocol, get_args

from hydrarch.core.base.errors import BadRow, Unknown
from hydrarch.core.base.problems import Problem, Severity
from hydrarch.core.base.quantities import QUANTITIES
from hydrarch.core.base.units import System, show, show_apart

__all__ = ["Case", "Message", "OneScenario", "messages", "said_more", "tell"]


_MIDWAY = re.compile(r"^(?:The|No|A) ")
"""Words that begin a title with a capital letter, and have none midway."""


class OneScenario(Protocol):
    """A scenario: its id, and what people call it."""

    @property
    def id(self) -> str:
        """What it is told apart by."""

    @property
    def name(self) -> str:
        """What people call it."""


@dataclass(frozen=True, slots=True)
class Case:
    """A scenario that is known by its id and its name alone."""

    id: str
    name: str


@dataclass(frozen=True, slots=True)
class Message:
    """One way to tell a problem.

    `title` is the fact with its figure and limit, `detail` why it matters or where it comes from ("" for none), `mend`
    what to do, the likeliest first.
    """

    key: str
    severity: Severity
    title: str
    detail: str
    mend: str

    @property
    def code(self) -> str:
        """The code of the problem."""
        return self.key.split("/")[0]

    @property
    def fields(self) -> dict[str, str]:
        """Every value it names, with the kind of quantity it is ("" for words and plain numbers)."""
        found: dict[str, str] = {}
        for text in (self.title, self.detail, self.mend):
            found |= {name: spec or found.get(name, "") for _, name, spec, _ in Formatter().parse(text) if name}
        return found


@cache
def messages() -> dict[str, Message]:
    """Every message by its key. Raises `BadRow` for an entry that is not whole."""
    found: dict[str, Message] = {}
    for file in sorted(files("hydrarch.core.base").joinpath("messages").iterdir(), key=lambda f: f.name):
        for key, entry in tomllib.loads(file.read_text("utf-8")).items():
            if key in found or not {"severity", "title", "mend"} <= entry.keys() <= {
                "severity",
                "title",
                "detail",
                "mend",
            }:
                raise BadRow(file.name, 0, f"the message {key} is told twice, or not whole")
            if entry["severity"] not in get_args(Severity):
                raise BadRow(file.name, 0, f"the message {key} has no severity that there is")
            found[key] = Message(key, entry["severity"], entry["title"], entry.get("detail", ""), entry["mend"])
    return found


def tell(
    key: str, where: str, units: System = "metric", *, scenario: OneScenario | None = None, **values: str | float
) -> Problem:
    """The problem that a message tells, with its values (SI) in a crew's units; raises `Unknown` for one there is not.

    Two quantities that are not alike are told with as many decimals as show it: never "5.0, limit 5.0".
    """
    if key not in messages():
        raise Unknown("message", key, messages())
    message = messages()[key]
    words = _words(message.fields, units, values)
    title, detail, mend = (_set(t, words) for t in (message.title, message.detail, message.mend))
    if scenario is not None:
        title = f"{scenario.name}: {_MIDWAY.sub(lambda m: m[0].lower(), title)}"
    return Problem(
        code=message.code,
        severity=message.severity,
        where=where,
        says=f"{title}{'' if title.endswith('?') else '.'} {detail}".strip(),
        mend=mend,
        scenario=scenario.id if scenario is not None else "",
        title=title,
        detail=detail,
    )


def said_more(problem: Problem, more: str) -> Problem:
    """The same problem with a sentence more."""
    says = f"{problem.says} {more}"
    return replace(problem, says=says, detail=f"{problem.detail} {more}".strip() if problem.title else "")


def _words(kinds: dict[str, str], units: System, values: dict[str, str | float]) -> dict[str, str]:
    words = {
        name: str(show(float(values[name]), kind, units)) if kind in QUANTITIES else f"{values[name]:{kind}}"
        for name, kind in kinds.items()
    }
    for one, two in combinations((n for n, kind in kinds.items() if kind in QUANTITIES), 2):
        if kinds[one] == kinds[two] and words[one] == words[two] and values[one] != values[two]:
            words[one], words[two] = show_apart(float(values[one]), float(values[two]), kinds[one], units)
    return words


def _set(text: str, words: dict[str, str]) -> str:
    return "".join(before + (words[name] if name else "") for before, name, _, _ in Formatter().parse(text))
