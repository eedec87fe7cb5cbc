"""The page by which a phone takes in the crew's certificate once."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import segno
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.serialization import Encoding
from jinja2 import Environment, PackageLoader, StrictUndefined, Template

__all__ = ["Trust", "code", "crew_certificate", "fingerprint", "trust_page"]


@dataclass(frozen=True, slots=True)
class Trust:
    """The addresses a shared server answers to: `plain` and, by the authority whose certificate is in a file, `secure`."""

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
    segno.make(text, error="m", micro=False).save(out, kind="svg", xmldecl=False, svgns=True, nl=False, omitsize=True, border=2)
    return out.getvalue().decode()


@cache
def _template() -> Template:
    return Environment(loader=PackageLoader("hydrarch.formats"), autoescape=True, undefined=StrictUndefined).get_template(
        "trust.html"
    )


def trust_page(trust: Trust) -> str:
    """The page itself; it needs no script, and nothing of it is secret."""
    return _template().render(
        address=trust.secure,
        plain=trust.plain,
        here=code(f"{trust.plain}/trust"),
        there=code(trust.secure),
        fingerprint=fingerprint(trust),
    )
