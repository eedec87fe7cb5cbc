"""Whether words are fit to keep strangers out, and whether they are the ones they were."""

from __future__ import annotations

import hashlib
import hmac
import itertools
import os
import re

from hydrarch.store.database import Store

__all__ = ["LEAST_PASSPHRASE", "changed_since", "weakness"]

LEAST_PASSPHRASE = 8
_LEAST_KINDS = 5
_COMMON = frozenset(
    [
        "password",
        "passw0rd",
        "passwort",
        "password1",
        "password123",
        "12345678",
        "123456789",
        "1234567890",
        "87654321",
        "11111111",
        "00000000",
        "qwertyui",
        "qwerty123",
        "qwertyuiop",
        "asdfghjk",
        "asdfghjkl",
        "zxcvbnm1",
        "1q2w3e4r",
        "1qaz2wsx",
        "iloveyou",
        "sunshine",
        "princess",
        "football",
        "baseball",
        "superman",
        "trustno1",
        "welcome1",
        "welcome123",
        "letmein1",
        "letmein123",
        "admin123",
        "administrator",
        "changeme",
        "default1",
        "whatever",
        "computer",
        "internet",
        "irrigation",
        "sprinkler",
        "sprinklers",
        "plumbing",
        "plumber1",
        "waterwater",
        "hydrarch",
        "hydrarch1",
        "thistledown",
        "thistledowncamp",
        "companyname",
        "watermelon",
    ]
)


def weakness(words: str) -> str:
    """Why words are no passphrase, in words; "" where they will do.

    >>> weakness("aaaaaaaa"), weakness("three blue gates")
    ('it has hardly any different letters', '')
    """
    plain = re.sub(r"[\s_.-]+", "", words).casefold()
    if len(words) < LEAST_PASSPHRASE:
        return f"it has {len(words)} letters, and wants at least {LEAST_PASSPHRASE} letters"
    if len(set(plain)) < _LEAST_KINDS:
        return "it has hardly any different letters"
    if plain in _COMMON or plain.rstrip("0123456789!?") in _COMMON:
        return "it is one of those that are guessed first"
    half = len(plain) // 2
    if len(plain) % 2 == 0 and plain[:half] == plain[half:] and half < LEAST_PASSPHRASE:
        return "it says the same twice"
    steps = {ord(b) - ord(a) for a, b in itertools.pairwise(plain)}
    if steps in ({1}, {-1}):
        return "its letters follow one another"
    return ""


def changed_since(store: Store, passphrase: str) -> bool:
    """Whether the passphrase is another than the one the folder was shared with before; it is remembered, as a hash,
    and all sessions end where it is another.
    """
    row = store.read().execute("SELECT salt, hash FROM passphrase").fetchone()
    if row is not None and hmac.compare_digest(_hash(passphrase, bytes(row["salt"])), bytes(row["hash"])):
        return False
    salt = os.urandom(16)
    with store.atomic() as db:
        db.execute(
            "INSERT INTO passphrase VALUES (1, ?, ?) ON CONFLICT (place) DO UPDATE SET salt = excluded.salt, "
            "hash = excluded.hash",
            (salt, _hash(passphrase, salt)),
        )
        if row is not None:
            db.execute("DELETE FROM session")
    return row is not None


def _hash(passphrase: str, salt: bytes) -> bytes:
    return hashlib.scrypt(passphrase.encode(), salt=salt, n=2**14, r=8, p=1)
