"""Who is of the crew, each with a letter and a colour, and the sessions of the devices that were let in."""

from __future__ import annotations

import hashlib
import secrets
from collections import Counter
from dataclasses import dataclass

from hydrarch.store.database import Store

__all__ = [
    "COLOURS",
    "Member",
    "Session",
    "add_member",
    "end_session",
    "members",
    "open_session",
    "seen_sessions",
    "sessions",
]

COLOURS = 8
_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True, slots=True)
class Member:
    """One of the crew: `letter` and `colour` (0 to 7) tell them apart where there is no room for the name."""

    name: str
    letter: str
    colour: int


@dataclass(frozen=True, slots=True)
class Session:
    """A device that was let in: `token` is the hash of its token, `id` what it is called in lists.

    Times in s since 1970.
    """

    token: str
    id: str
    member: str
    device: str
    opened: float
    seen: float
    ends: float
    owner: bool = False


def members(store: Store) -> tuple[Member, ...]:
    """All of the crew, who came first in front."""
    rows = store.read().execute("SELECT name, letter, colour FROM member ORDER BY since, name")
    return tuple(Member(r["name"], r["letter"], r["colour"]) for r in rows)


def add_member(store: Store, name: str, now: float) -> Member:
    """One more of the crew; who is there already, however the name is written, stays who they are."""
    with store.atomic() as db:
        known = members(store)
        there = next((m for m in known if m.name.casefold() == name.casefold()), None)
        if there is not None:
            return there
        taken, used = {m.letter for m in known}, Counter(m.colour for m in known)
        letter = next(
            (c for c in f"{name.upper()}{_LETTERS}" if c.isalnum() and c not in taken), name[:1].upper() or "?"
        )
        colour = min(range(COLOURS), key=lambda c: (used[c], c))
        db.execute("INSERT INTO member VALUES (?, ?, ?, ?)", (name, letter, colour, now))
        return Member(name, letter, colour)


def open_session(store: Store, member: str, device: str, now: float, lasts: float, owner: bool = False) -> str:
    """Let a device in for so many seconds, as the `owner`'s or the crew's; gives its token, which is kept nowhere but
    there.
    """
    token = secrets.token_urlsafe(32)
    with store.atomic() as db:
        db.execute("DELETE FROM session WHERE ends < ?", (now,))
        db.execute(
            "INSERT INTO session VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (hashed(token), secrets.token_hex(6), member, device, now, now, now + lasts, int(owner)),
        )
    return token


def hashed(token: str) -> str:
    """What a token is kept as."""
    return hashlib.sha256(token.encode()).hexdigest()


def sessions(store: Store, now: float) -> tuple[Session, ...]:
    """The sessions that have not ended, the newest first."""
    rows = store.read().execute("SELECT * FROM session WHERE ends >= ? ORDER BY opened DESC", (now,))
    return tuple(Session(**{**dict(r), "owner": bool(r["owner"])}) for r in rows)


def seen_sessions(store: Store, seen: dict[str, float]) -> None:
    """Keep when sessions, by the hashes of their tokens, last asked anything."""
    with store.atomic() as db:
        db.executemany(
            "UPDATE session SET seen = max(seen, ?) WHERE token = ?", [(at, token) for token, at in seen.items()]
        )


def end_session(store: Store, name: str) -> bool:
    """End a session by its id; whether there was one."""
    with store.atomic() as db:
        return db.execute("DELETE FROM session WHERE id = ?", (name,)).rowcount > 0
