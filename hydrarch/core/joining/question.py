"""A question to the bench in a crew's own words: what is to be joined, branched, closed or repaired, and under what
limits.

Every word is accounted for: it names a thing, sets a limit, is told as read for another, or is told as ignored.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Literal

from hydrarch.core.base.errors import AskedBack, HydrarchError
from hydrarch.core.base.units import size_is_metric
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.joining.conditions_in_words import Understood, read_conditions
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.spoken import GRADES, NUMBER, names_pipe, plain, read_size, read_thing
from hydrarch.core.joining.vocabulary import corrected, known_word, threaded, tidy

__all__ = ["Kind", "Question", "read_question"]

Kind = Literal["join", "branch", "close", "repair"]


@dataclass(frozen=True, slots=True)
class Question:
    """What was asked: to `join` two things, to `branch` the second off the first, to `close` each, to `repair` the line
    that is named twice; and what else was heard.
    """

    kind: Kind
    things: tuple[PipeOrEnd, ...]
    heard: Understood


_LEAD = re.compile(
    r"^(?:(?:please|how (?:do|can|would|should) (?:i|you|we)|how to|what (?:do|would) (?:i|you|we) (?:need|use) to|best way to"
    r"|i (?:want|need|have) to|i need|(?:can|could) (?:i|you|we)|need to|(?:i have|there is|there's) an?)\s+)+"
)
_CLOSE = re.compile(r"^(?:cap|close|plug|stop|blank|seal)\s+(?!valve\b)(?:(?:off|up)\s+)?(?:an?\s+|the\s+)?")
_TRENCH = re.compile(r"\b(?:in|inside) (?:one|the same|a) trench\b|\blines?\b|\bpipes?\b")
_REPAIR = re.compile(
    r"\b(?:(?:an? |the )?(?:small |long )?(?:nick|split|crack|leak|hole|pinhole|burst|break|damage)(?: in| on| to| of)?"
    r"|repair|mend|fix|patch|nicked|cracked|leaking|leaky|leaks|burst|broken|damaged|chewed|punctured|weeping)\b,?"
    r"(?: (?:joint|coupling|elbow|tee)(?: in| on)?\b)?"
)
_VALVE = re.compile(r"\b(?:stop |shutoff |ball |isolation |isolating )?valve\b")
_FREE = re.compile(
    r"\b(?:that |which |it |the pipe |both ends |ends )*can (?:be )?(?:moved?|flexed|flex|bent|lifted)\b,?"
)
_IN = r"(?:in|into|on|onto|for|between)"
_SERVED = re.compile(
    r"^(?:fit |put |replace )?(?:an? |the )?(?:new |old )?(?P<what>(?:stop |shutoff |ball |gate |plug |globe |butterfly |isolation |isolating )?valve|union)\s+"
    rf"{_IN}\s+(?P<line>.+)$"
)
_BRANCH = tuple(
    re.compile(pattern)
    for pattern in (
        r"^(?:an? )?(?:branch|tee|saddle|tap|take|tie|run) (?P<off>\S.*?) (?:off(?: of)?|from|on|onto|into|out of) (?P<line>.+)$",
        r"^(?:branch|tee|come|tap|take) off (?:of )?(?P<line>.+?) (?:for|to|with) (?P<off>.+)$",
        r"^(?:tap|tie|tee|branch|saddle) (?:into|onto|on|in) (?P<line>.+?) (?:with|for|to) (?P<off>.+)$",
        r"^(?:an? )?(?:branch|tee|tap|saddle)(?: off)? (?:into|in|on|off|of|for) (?P<line>.+)$",
        r"^(?P<off>\S.*?) (?:branch(?:ed)? |tee |teed |taken )?off (?:of )?(?P<line>.+)$",
    )
)
_ITSELF = re.compile(
    r"\s+(?:to|with|and) (?:itself|(?:the )?same(?: pipe| again)?|another(?: one| piece)?|each other|the other(?: end| piece)?)$"
)
_IN_LINE = re.compile(r",? (?:together|in line)$")
_TO = (r"\s+(?:to|into|onto)\s+", r"\s+and\s+", r"\s+(?:with|on|x)\s+", r"\s+for\s+")
_COUPLED = re.compile(r"^(?:an? )?(?:two |coupling |coupler |splice |extend |lengthen )+(?:for |of |in |on )?(?:an? )?")
_TO_ITSELF = ("valve", "union", "waste", "fixed")
_ARTICLE = re.compile(r"^(?:(?:an?|the|my|our|this|that|old|existing|new|from|join|connect|between|go|going)\s+)+")


def read_question(text: str, shop: Market = "both") -> Question:
    """Read "1 in galvanized to 1 in galvanized, both fixed, with a valve between", "branch 3/4 off a 2 in pvc line",
    "cap a 1 in pvc line", "valve in 25 mm PE", "a nick in 1 in sch 40", "1 in poly to itself".

    A thread that is not named is the market's, and told as read so; where a `shop` sells both it is asked back.

    Raises `AskedBack` saying which part is not understood, and how to say it.
    """
    try:
        return _question(text, shop)
    except HydrarchError as error:
        raise AskedBack(str(error)) from error


def _question(text: str, shop: Market) -> Question:
    asked, swapped = corrected(tidy(plain(text)))
    asked, threads = threaded(asked, shop)
    rest, heard = read_conditions(_LEAD.sub("", asked))
    rest = _trimmed(rest)
    kind, things, more = _read(rest, heard.limits)
    limits = tuple(dict.fromkeys((*heard.limits, *more)))
    heard = replace(heard, limits=limits, ignored=_ignored(rest), corrected=(*swapped, *threads))
    return Question(kind, things, heard)


def _trimmed(text: str) -> str:
    text = re.sub(r"\b(?:on|at) (?:the )?site\b", " ", text)
    text = re.sub(r"\s*,(?:\s*,)*\s*(?=$|\bto\b)|^(?:[\s,:;]|\.(?!\d))*|[\s,:;.?!]+$", " ", " ".join(text.split()))
    return " ".join(re.sub(r"\s+,", ",", text).split()).strip(" ,")


def _read(text: str, limits: tuple[str, ...]) -> tuple[Kind, tuple[PipeOrEnd, ...], tuple[str, ...]]:
    """The kind of question, its things, and the limits that its form sets."""
    served = _SERVED.match(text)
    if served is not None:
        line = read_thing(_bare(_ITSELF.sub("", served["line"])))
        return "join", (line, line), ("union" if served["what"] == "union" else "valve",)
    closed = _CLOSE.match(text)
    if closed is not None and not re.search(r"\s(?:to|into|onto)\s", text):
        if {"valve", "union", "waste"} & {*limits}:
            raise HydrarchError("a line that is closed takes no valve or union there: ask for the one or the other")
        return "close", _closed(text[closed.end() :], text), ()
    if _REPAIR.search(text):
        left = _trimmed(_FREE.sub(" ", _REPAIR.sub(" ", text)))
        if re.search(r"\s(?:to|into|onto)\s", left) and not _ITSELF.search(left):
            return "repair", _joined(left, limits), ()
        line = read_thing(_bare(_ITSELF.sub("", left)))
        bends = _FREE.search(text) is not None or (line.series is not None and series(line.series).coil is not None)
        return "repair", (line, line), () if bends else ("fixed",)
    for pattern in _BRANCH:
        found = pattern.match(text)
        if found is not None and names_pipe(found["line"]):
            line = read_thing(_bare(found["line"]))
            return "branch", (line, _beside(_bare(found.groupdict().get("off") or ""), found["line"], line)), ()
    return "join", _joined(text, limits), ()


def _joined(text: str, limits: tuple[str, ...]) -> tuple[PipeOrEnd, PipeOrEnd]:
    alone = _IN_LINE.sub("", _ITSELF.sub("", text))
    halves = _halves(alone)
    if halves is not None and not _ITSELF.search(text):
        one, two = halves
        if _only_size(one) and names_pipe(two):
            return _beside(one, two, None), read_thing(two)
        return read_thing(one), _beside(two, one, read_thing(one)) if _only_size(two) else read_thing(two)
    line = _COUPLED.sub("", _bare(alone))
    meant = alone != text or line != _bare(alone) or text.startswith(("join ", "connect ")) or {*_TO_ITSELF} & {*limits}
    if meant and names_pipe(line):
        thing = read_thing(_bare(line))
        return thing, thing
    raise HydrarchError(
        "say it as 'this to that', for example '1 in sch 40 pipe to 1 in poly'; or 'branch 3/4 off a 2 in pvc line', "
        "'valve in a 25 mm PE line', 'cap a 1 in pvc line', 'repair 1 in sch 40'"
    )


def _halves(text: str) -> tuple[str, str] | None:
    """The two sides of a question; words other than "to" part it only where each side then has a size."""
    for mark in _TO:
        halves = [_bare(h) for h in re.split(mark, text)]
        if len(halves) == 2 and (mark == _TO[0] or all(NUMBER.search(GRADES.sub(" ", h)) for h in halves)):
            return halves[0], halves[1]
    return None


def _bare(text: str) -> str:
    return _ARTICLE.sub("", _trimmed(text))


def _only_size(text: str) -> bool:
    """Whether a side of a question names a size and nothing else that is known."""
    left = re.sub(r"\b(?:an?|the|pipe|line|inch|inches|reducer|reducing|bushing|one)\b", " ", NUMBER.sub(" ", text))
    return NUMBER.search(text) is not None and not re.search(r"[a-z]", left)


def _beside(text: str, other: str, whole: PipeOrEnd | None) -> PipeOrEnd:
    """A side that names a size alone is of the material of the other; one that names nothing is as the other is."""
    if not re.search(r"\d", text) and whole is not None and not names_pipe(text):
        return whole
    if _only_size(text):
        size, unit = read_size(text)
        theirs = whole.size if whole is not None and whole.size is not None else read_size(other)[0]
        if size_is_metric(theirs) != (unit == "mm" or size_is_metric(size)):
            raise HydrarchError(
                f"'{text}' names no pipe, and {other} is not made in that size: say which pipe or thread it is"
            )
        return read_thing(f"{text} {_without_size(_bare(other))}")
    return read_thing(text)


def _without_size(text: str) -> str:
    """What a pipe is, without the size that is said of it."""
    found = NUMBER.search(GRADES.sub(lambda m: "#" * len(m.group(0)), text))
    return text if found is None else " ".join((text[: found.start()] + " " + text[found.end() :]).split())


def _closed(rest: str, text: str) -> tuple[PipeOrEnd, ...]:
    """The lines to be closed: a line that names no material is of that of the one named last."""
    halves = [" ".join(h.split()) for h in re.split(r"\s+and\s+(?:an?\s+)?", _TRENCH.sub(" ", rest))]
    named = [h for h in halves if names_pipe(h) or re.search(r"\b(?:fe)?male\b", h)]
    if not named:
        raise HydrarchError(f"'{text}': say what pipe is to be closed, for example 'cap a 1 in pvc line'")
    last = _without_size(named[-1])
    return tuple(read_thing(h if h in named else f"{h} {last}") for h in halves)


def _ignored(text: str) -> tuple[str, ...]:
    """The words of a question that nothing of it was read from, in their order."""
    for known in (_CLOSE, _REPAIR, _FREE, _TRENCH, _VALVE):
        text = known.sub(" ", text)
    return tuple(dict.fromkeys(w for w in re.findall(r"[a-z][a-z'-]*[a-z]", text) if not known_word(w)))
