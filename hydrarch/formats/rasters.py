"""Photos and scans of others as a browser shows them: upright, of a size that is looked at, as PNG or JPEG.

JPEG is turned by what its camera wrote; TIFF, WebP and the first page of a PDF are drawn as a picture.
"""

from __future__ import annotations

import io
import warnings
from contextlib import suppress

from PIL import Image, ImageOps

from hydrarch.formats.explained import BadFile

__all__ = ["page_of_pdf", "redrawn", "turned"]

_WIDEST = 2600
"""px of the longer side of what is drawn anew: as fine as a drawing is looked at."""
_MOST_PIXELS = 80_000_000
_KINDS = ("TIFF", "WEBP", "JPEG")


def turned(body: bytes) -> bool:
    """Whether a JPEG is to be turned or mirrored before it is looked at."""
    with suppress(Exception), Image.open(io.BytesIO(body), formats=("JPEG",)) as found:
        return bool(found.getexif().get(0x0112, 1) != 1)
    return False


def redrawn(body: bytes) -> tuple[bytes, str, int, int, str]:
    """A TIFF, WebP or JPEG upright and no finer than is looked at: bytes, media type, its size in px, and what is left
    out.

    Raises `BadFile` for what is broken or has too many pixels.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            found = Image.open(io.BytesIO(body), formats=_KINDS)
        wide, high = found.size
        if wide * high > _MOST_PIXELS:
            raise BadFile(
                f"this picture has {wide} × {high} pixels: make it smaller than {_MOST_PIXELS // 10**6} million"
            )
        pages = int(getattr(found, "n_frames", 1))
        upright = ImageOps.exif_transpose(found) or found
        return *_drawn(upright, upright.format != "JPEG" and found.format == "TIFF"), _pages(pages)
    except BadFile:
        raise
    except Exception as error:  # whatever a broken picture may bring
        raise BadFile(
            "this picture cannot be opened: save it as PNG or JPEG", (("the file", str(error)[:200]),)
        ) from error


def page_of_pdf(body: bytes) -> tuple[bytes, str, int, int, str]:
    """The first page of a PDF as a picture: bytes, media type, its size in px, and what is left out.

    Raises `BadFile` for what is broken or locked.
    """
    import pypdfium2  # loaded when first used: a server starts without it

    try:
        document = pypdfium2.PdfDocument(body)
        page = document[0]
        wide, high = page.get_size()
        if not (0 < wide < 1e5 and 0 < high < 1e5):
            raise BadFile("the first page of this PDF has no size")
        picture = page.render(scale=_WIDEST / max(wide, high)).to_pil()
        return *_drawn(picture, True), _pages(len(document))
    except BadFile:
        raise
    except Exception as error:
        raise BadFile(
            "this PDF cannot be opened: it is broken, or locked by a password", (("the file", str(error)[:200]),)
        ) from error


def _pages(count: int) -> str:
    return f"{count - 1} further page{'s' if count > 2 else ''}" if count > 1 else ""


def _drawn(picture: Image.Image, sharp: bool) -> tuple[bytes, str, int, int]:
    """As PNG where edges matter, else as JPEG; what would be too large as PNG is JPEG too."""
    picture = picture.convert("RGB") if picture.mode not in ("RGB", "L") else picture
    picture.thumbnail((_WIDEST, _WIDEST))
    for form, media, more in (("PNG", "image/png", {}), ("JPEG", "image/jpeg", {"quality": 82})):
        if form == "PNG" and not sharp:
            continue
        out = io.BytesIO()
        picture.save(out, form, **more)
        if len(out.getvalue()) <= 2_900_000 or form == "JPEG":
            return out.getvalue(), media, *picture.size
    raise BadFile("this picture is too large")
