"""Photos as phones take them, made fit to be kept: turned upright, sized down, and without a word of where or with what
they were taken.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from hydrarch.formats.explained import BadFile

__all__ = ["LONGEST", "Developed", "develop"]

LONGEST = 1600
"""Pixels of a kept photo's longer side: enough to read a depth mark or a date on a valve."""
_MOST = 60_000_000  # pixels a photo may have before it is decoded
_QUALITY = 82
_KINDS = ("JPEG", "PNG", "WEBP")
Place = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Developed:
    """A photo to be kept: JPEG, its size in pixels, and where it was taken (degrees north and east) where that was
    wanted and is known.
    """

    body: bytes
    wide: int
    high: int
    place: Place | None


def develop(body: bytes, *, place: bool = False) -> Developed:
    """Read a photo (JPEG, PNG or WebP) and write it anew: nothing of the file but its picture is kept, and its place
    only if `place` is said.

    Raises `BadFile` for what is no such photo, is broken, or is larger than any phone's.
    """
    try:
        with Image.open(io.BytesIO(body), formats=_KINDS) as found:
            if found.width * found.height > _MOST:
                raise BadFile(
                    f"this photo has {found.width} × {found.height} points; {_MOST // 1_000_000} million are the most"
                )
            where = _place(found) if place else None
            upright = ImageOps.exif_transpose(found)
            flat = upright.convert("RGB")
    except UnidentifiedImageError:
        raise BadFile("this is no photo that can be read here: JPEG, PNG and WebP can") from None
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise BadFile(f"this photo is broken ({error}): take it again") from error
    flat.thumbnail((LONGEST, LONGEST))
    out = io.BytesIO()
    flat.save(out, "JPEG", quality=_QUALITY, optimize=True)
    return Developed(out.getvalue(), flat.width, flat.height, where)


def _place(found: Image.Image) -> Place | None:
    gps = found.getexif().get_ifd(ExifTags.IFD.GPSInfo)
    try:
        north, east = (
            sum(float(x) / 60**n for n, x in enumerate(gps[tag]))
            for tag in (ExifTags.GPS.GPSLatitude, ExifTags.GPS.GPSLongitude)
        )
        north *= -1 if gps.get(ExifTags.GPS.GPSLatitudeRef) == "S" else 1
        east *= -1 if gps.get(ExifTags.GPS.GPSLongitudeRef) == "W" else 1
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None
    return (north, east) if abs(north) <= 90 and abs(east) <= 180 else None
