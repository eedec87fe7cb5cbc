"""The crew's equipment book in the database: one text, replaced as a whole."""

from __future__ import annotations

from hydrarch.store.database import Store

__all__ = ["keep_book", "kept_book"]


def kept_book(store: Store) -> str | None:
    """The book as it was kept, None where there is none yet."""
    row = store.read().execute("SELECT body FROM book").fetchone()
    return None if row is None else str(row["body"])


def keep_book(store: Store, text: str) -> None:
    """Keep a book in place of the one before."""
    with store.atomic() as db:
        db.execute(
            "INSERT INTO book (place, body) VALUES (1, ?) ON CONFLICT (place) DO UPDATE SET body = excluded.body",
            (text,),
        )
