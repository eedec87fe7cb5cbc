"""The page by which a phone takes in the crew's certificate once."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cache
from html import escape
from pathlib import Path
from textwrap import wrap

import segno
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.serialization import Encoding
from jinja2 import Environment, PackageLoader, StrictUndefined, Template

from hydrarch.core.base.units import show
from hydrarch.core.plan.document import Plan, Point

__all__ = ["Trust", "code", "crew_certificate", "fingerprint", "label", "trust_page"]


@dataclass(frozen=True, slots=True)
class Trust:
    """The addresses a shared server answers to: `plain` and, by the authority whose certificate is in a file,
    `secure`.
    """

    plain: str
    secure: str
    authority: Path


def crew_certificate(trust: Trust) -> bytes:
    """The authority's certificate as phones take it in (DER)."""
    return x509.load_pem_x509_certificate(trust.authority.read_bytes()).public_bytes(Encoding.DER)


def fingerprint(trust: Trust) -> str:
    """The SHA-256 of the authority's certificate, in pairs of letters."""
    return x509.load_pem_x509_certificate(trust.authority.read_bytes()).fingerprint(hashes.SHA256()).hex(":").upper()


def code(text: str) -> str:
    """A QR code of a text as SVG to stand in a page (ISO/IEC 18004, level M)."""
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        out, kind="svg", xmldecl=False, svgns=True, nl=False, omitsize=True, border=2
    )
    return out.getvalue().decode()


_NAMED = ((4.0, 14, 2), (3.0, 19, 3), (2.4, 24, 9))
"""Size (mm) of a name's letters on a label, how many go on a line, and in how many lines at the most."""


def label(address: str, plan: Plan, point: Point) -> str:
    """A label of 60 mm by 30 for a riser or a valve box: the code of its page, what it is, and how deep its
    pipe lies.
    """
    lies = f"pipe {show(point.depth, 'depth', plan.units)} deep" if point.depth > 0 else "pipe above ground"
    named = next((w, s) for s, wide, most in _NAMED if len(w := wrap(point.label, wide)) <= most or most > 4)
    small, letters = (2.7, 21) if len(named[0]) <= 2 else (2.1, 27)
    lines = [(named[1], 700, x) for x in named[0]] + [(small, 400, x) for x in (*wrap(plan.name, letters), lies)]
    words, y = "", 4.0
    for size, weight, text in lines:
        y += 1.3 * size
        words += f'<text x="31" y="{y:.1f}" font-size="{size}" font-weight="{weight}">{escape(text)}</text>'
    square = code(address).replace("<svg ", '<svg x="1" y="1" width="28" height="28" ', 1)
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30" role="img" '
        f'aria-label="{escape(point.label)}">'
        f'<rect width="60" height="30" fill="#fff"/>{square}<g fill="#16212a" '
        f'font-family="sans-serif">{words}</g></svg>'
    )


@cache
def _template() -> Template:
    return Environment(
        loader=PackageLoader("hydrarch.formats"), autoescape=True, undefined=StrictUndefined
    ).get_template("trust.html")


def trust_page(trust: Trust) -> str:
    """The page itself; it needs no script, and nothing of it is secret."""
    return _template().render(
        address=trust.secure,
        plain=trust.plain,
        here=code(f"{trust.plain}/trust"),
        there=code(trust.secure),
        fingerprint=fingerprint(trust),
    )
