"""The faces that paper is set in, which ship along: the letters of Europe's languages, Greek and Cyrillic too."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from importlib.resources import files

from reportlab.lib.utils import TimeStamp
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from hydrarch.core.base.cache import remembered

__all__ = ["FACE", "FACE_BOLD", "Dated", "settable", "unset", "use_faces"]

FACE, FACE_BOLD = "sheet", "sheet-bold"


@remembered()
def use_faces() -> frozenset[int]:
    """Make the faces known to what writes PDF; returns the letters they have."""
    for name in (FACE, FACE_BOLD):
        letters = files("hydrarch.formats").joinpath("fonts", f"{name}.ttf").read_bytes()
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(letters)))
    return frozenset(pdfmetrics.getFont(FACE).face.charToGlyph)


def unset(text: str) -> str:
    """The letters of a text that the faces have not, each once."""
    known = use_faces()
    return "".join(sorted({c for c in text if ord(c) not in known and not c.isspace()}))


def settable(text: str) -> str:
    """A text as it can be set: "?" for a letter that cannot, never a box."""
    known = use_faces()
    return "".join(c if ord(c) in known or c.isspace() else "?" for c in text)


class Dated(TimeStamp):  # type: ignore[misc]
    """The moment (s since 1970) that a PDF says it was made at."""

    def __init__(self, at: float) -> None:
        super().__init__(invariant=1)
        self.t, self.lt = at, datetime.fromtimestamp(at, UTC).timetuple()
        self.YMDhms = tuple(self.lt)[:6]
