"""The names, words and ids a plan is written with, each held to what can be read back."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from hydrarch.core.base.identity import RESERVED, Refers

__all__ = ["AnyEnd", "AnyThing", "Identity", "Name", "PortName", "Words", "sayable"]


def _free(name: str) -> str:
    if name in RESERVED:
        raise ValueError(f"'{name}' is a word with a meaning of its own here; call it something else")
    return name


def sayable(name: str) -> str:
    """A name that can be shown and written again; raises ValueError."""
    wrong = next((c for c in name if c < " " or c == "\x7f" or "\ud800" <= c <= "\udfff"), None)
    if wrong is not None:
        raise ValueError("a name may not hold control characters or halves of letters; type it again")
    return name


Name = Annotated[str, Field(max_length=80), AfterValidator(sayable)]
Words = Annotated[str, Field(max_length=160), AfterValidator(sayable)]
Identity = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$"), AfterValidator(_free)]
AnyEnd = Annotated[str, Field(pattern=r"^[A-Za-z0-9_~-]{1,60}$"), Refers("end", holds="kind")]
AnyThing = Annotated[Identity, Refers("thing")]
PortName = Annotated[str, Field(pattern=r"^[a-z0-9-]{0,20}$")]
