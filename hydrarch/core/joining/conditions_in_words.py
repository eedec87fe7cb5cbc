"""What a question sets besides the things to be joined: no glue, no heat, a valve between, at 6 bar, buried."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import PSI

__all__ = ["NOTHING_HEARD", "Understood", "read_conditions"]


@dataclass(frozen=True, slots=True)
class Understood:
    """What words say besides the two things: the `limits` they set, by the names of the bench's own, the pressure (Pa)
    it must stand and the water's temperature (K), None where they are not said.

    `corrected` are words that were nearly ones of the trade, each with what it was read as. `ignored` are the words
    that mean nothing here: they are told beside the answer, and change nothing in it.
    """

    limits: tuple[str, ...] = ()
    pressure: float | None = None
    temperature: float | None = None
    ignored: tuple[str, ...] = ()
    corrected: tuple[tuple[str, str], ...] = ()


NOTHING_HEARD = Understood()
_NO = r"(?:no|without|not|never|can ?not use|can't use|don't want)(?: with| any| an?| to use| use)*|don't use"
_NOT_ASKED = re.compile(
    r"\b(?:no|not|without|never|need not|needn't|does(?:n't| not) (?:have|need)(?: to)?|don't (?:need|want))"
    r"(?: (?:for|to|be|an?|any|it|is))*"
    r" (?:(?:stop |shut-?off |ball |gate |isolation |isolating )?valves?|unions?|serviceable|removable|come apart|taken apart"
    r"|drinking(?: water)?|potable(?: water)?|buried|underground|fixed|held)(?: in)?(?: between)?(?: again)?\b"
)
"""A condition that is said not to be wanted: it is understood, and sets no limit."""
_CONDITIONS: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (name, re.compile(pattern))
    for name, pattern in (
        ("no_solvent", rf"\b(?:{_NO}) (?:solvent|glue|gluing|cement|welding with solvent)\b|\bglue[- ]?free\b"),
        ("no_hot_work", rf"\b(?:{_NO}) (?:heat|hot work|flame|torch|iron|fusion|solder(?:ing)?|fire)\b"),
        (
            "fixed",
            r"\b(?<!one )(?:both |two |neither )?(?:ends? )?(?:are |is )?fixed\b(?<!one end fixed)(?<!one end is fixed)"
            r"|\b(?:both(?: ends)?|two ends|ends are|are)(?: are)? held\b"
            r"|\bneither (?:end )?(?:can )?(?:moves?|turns?)(?: (?:or|nor) (?:moves?|turns?))?\b"
            r"|\b(?:that |which )?(?:can ?not|cannot|can't|won't|does not|doesn't) (?:be )?(?:moved?|turn(?:ed)?)\b",
        ),
        (
            "waste",
            r"\b(?:with |and )?(?:an? )?(?:new )?stop[- ]and[- ]waste(?: valve)?(?: (?:in )?between)?\b,?",
        ),
        (
            "valve",
            r"\b(?:with |and )?(?:an? )?(?:new )?(?:stop |shut-?off |ball |gate |isolation |isolating )?valve "
            r"(?:in |to go )?between\b,?|\b(?:with|and) (?:an? )?(?:stop |shut-?off |ball |gate )?valve\b,?",
        ),
        ("union", r"\b(?:with|and) (?:an? )?unions?\b(?! (?:fe)?male)|\b(?:and )?(?:an? )?union (?:in )?between\b"),
        (
            "serviceable",
            r"\b(?:that |it |which )?(?:must|can|should|has to|to) (?:be )?(?:come|comes|taken?|took) (?:apart|off)"
            r"(?: again)?\b|\b(?:(?:must|should|has to|to) be )?(?:serviceable|removable)\b|\bto unscrew\b",
        ),
        ("potable", r"\b(?:for )?(?:drinking|potable)(?: water)?\b"),
        (
            "buried",
            r"\b(?:to be |it is |will be )?(?:buried|underground|in the ground|in an? (?:(?:wet|damp|cold|muddy|deep|open),? )*trench)\b",
        ),
    )
)
_PRESSURE = re.compile(r"\b(?:at|to stand|for|under)?\s*(\d+(?:\.\d+)?)\s*(psi|bar|kpa)\b")
_PASCALS = {"psi": PSI, "bar": 1e5, "kpa": 1e3}
_WARMTH = re.compile(
    r"\b(?:at|water (?:of|at))\s*(\d+(?:\.\d+)?)\s*°?\s*([cf])\b|(?<![\d/.])(\d+(?:\.\d+)?)\s*(?:°\s*|degrees? )([cf])[a-z]*\b"
)
_HOT = re.compile(r"\b(?:for )?hot(?: water)?\b")


def read_conditions(text: str) -> tuple[str, Understood]:
    """What is left of a question once its conditions are read, and those: no glue, no heat, a valve between, at 6 bar.

    Raises `HydrarchError` for water that is said to be hot and not how hot, for no pressure, and for two.
    """
    found: list[str] = []
    text = _NOT_ASKED.sub(" ", text)
    for name, pattern in _CONDITIONS:
        if pattern.search(text):
            found.append(name)
            text = pattern.sub(" ", text)
    pressure = temperature = None
    told = _PRESSURE.search(text)
    if told is not None:
        pressure = float(told.group(1)) * _PASCALS[told.group(2)]
        text = _PRESSURE.sub(" ", text, count=1)
        if not pressure:
            raise HydrarchError("a pressure must be above zero: leave it out where none is asked")
        if _PRESSURE.search(text):
            raise HydrarchError("say one pressure: the highest it must stand")
    warm = _WARMTH.search(text)
    if warm is not None:
        degrees, unit = float(warm.group(1) or warm.group(3)), warm.group(2) or warm.group(4)
        temperature = degrees + 273.15 if unit == "c" else (degrees + 459.67) * 5 / 9
        text = _HOT.sub(" ", _WARMTH.sub(" ", text, count=1))
    if _HOT.search(text):
        raise HydrarchError("say how hot the water is, for example 'at 60 °C' or 'at 140 °F'")
    return text, Understood(tuple(found), pressure, temperature)
