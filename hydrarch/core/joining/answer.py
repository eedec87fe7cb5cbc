"""The bench's answer to a question in a crew's own words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from hydrarch.core.joining.belongings import HEAD_OF_DRIP
from hydrarch.core.joining.branches import branch
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.question import Question
from hydrarch.core.joining.ways import Ways, close_off, join

__all__ = ["answer"]

_REPAIR = (
    "Dig by hand, with room under the pipe, and never pry against it. Cut back to sound, round pipe; make "
    "the first cut "
    "short of the mark and cut again as needed. Keep dirt out. Look at it under pressure before it is covered."
)
"""How a piece is let into a line that lies there; common practice."""
_WASTE = (
    "Stop-and-waste: its arrow points with the flow; its waste port stands free in gravel above any ground "
    "water. Shut, it "
    "lets the line behind it drain back through that port: local code may forbid it on drinking water."
)
_OLD_THREADS = (
    "Old threads: brush them clean, and hold the pipe that stays with a back-up wrench. A thread that is "
    "thin with rust "
    "tears off: cut back to sound pipe and use a compression coupling there."
)


def answer(question: Question, given: Constraints, own: Mapping[str, float] | None = None) -> Ways:
    """Answer `question` under the limits it sets and those `given` beside it; `own` are the crew's prices by fitting.

    Raises `Unknown` and `HydrarchError` as `join` does.
    """
    heard = question.heard
    asked = replace(given, **dict.fromkeys(heard.limits, True))  # type: ignore[arg-type]
    if heard.pressure is not None:
        asked = replace(asked, pressure=heard.pressure)
    if heard.temperature is not None:
        asked = replace(asked, temperature=heard.temperature)
    found = _ways(question, asked, own)
    advice = " ".join(filter(None, (found.advice, _advice(question, asked))))
    return replace(found, heard=heard, kind=question.kind, advice=advice)


def _ways(question: Question, asked: Constraints, own: Mapping[str, float] | None) -> Ways:
    if question.kind == "close":
        return close_off(question.things, asked, own=own)
    one, two = question.things
    if question.kind != "branch":
        return join(one, two, asked, own=own)
    branches = branch(one, two, asked)
    under = " under these limits" if asked != Constraints(units=asked.units, market=asked.market) else ""
    return Ways(
        start=one.words(),
        stop=two.words(),
        ways=(),
        wrong=(),
        says="" if branches else f"No tee or saddle of ours takes {two.words()} off {one.words()}{under}.",
        nearest=(),
        weakest=None,
        things=(one, two),
        branches=branches,
    )


def _advice(question: Question, asked: Constraints) -> str:
    said = [_REPAIR] if question.kind == "repair" else []
    if asked.waste:
        said.append(_WASTE)
    if _is_old_thread(question.things) and (asked.fixed or asked.valve or asked.waste):
        said.append(_OLD_THREADS)
    drips = [t for t in question.things if t.series is not None and t.pipe()[0].kind == "drip"]
    if len(drips) == 1 and any(e.system in ("hose", "bspp") for t in question.things for e in t.ends()):
        said.append(HEAD_OF_DRIP)
    return " ".join(said)


def _is_old_thread(things: tuple[PipeOrEnd, ...]) -> bool:
    return any(t.material == "steel" for t in things)
