"""Who joined, was refused, ended a session, deleted or brought back a job: kept in order, never changed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hydrarch.store.database import Store

__all__ = ["Act", "Audited", "add_audit", "audited"]

Act = Literal[
    "joined", "refused", "ended", "deleted", "deleted for good", "restored", "overridden", "passphrase changed"
]
_MOST = 10_000


@dataclass(frozen=True, slots=True)
class Audited:
    """One act: when (s since 1970), by whom ("" where that is not known), and what it was about, in words."""

    at: float
    who: str
    what: str
    about: str


def add_audit(store: Store, at: float, who: str, what: Act, about: str) -> None:
    """Keep one act; of very many the oldest go."""
    with store.atomic() as db:
        db.execute("INSERT INTO audit (at, who, what, about) VALUES (?, ?, ?, ?)", (at, who[:60], what, about[:300]))
        db.execute("DELETE FROM audit WHERE place <= (SELECT max(place) FROM audit) - ?", (_MOST,))


def audited(store: Store, most: int = 500) -> tuple[Audited, ...]:
    """The newest acts, the newest first."""
    rows = store.read().execute("SELECT at, who, what, about FROM audit ORDER BY place DESC LIMIT ?", (most,))
    return tuple(Audited(**dict(r)) for r in rows)
