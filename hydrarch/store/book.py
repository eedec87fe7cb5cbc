"""The crew's equipment book in the database: one text, replaced as a whole, and beside it the rows taken out of it."""

from __future__ import annotations

from hydrarch.store.database import Store

__all__ = ["gone_rows", "keep_book", "keep_gone_row", "kept_book"]


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


def keep_gone_row(store: Store, section: str, name: str, body: str) -> None:
    """Keep a row (JSON) that is taken out of a section of the book, in place of one of that name before."""
    with store.atomic() as db:
        db.execute("INSERT OR REPLACE INTO gone_row (name, section, body) VALUES (?, ?, ?)", (name, section, body))


def gone_rows(store: Store) -> dict[str, tuple[str, str]]:
    """The rows that were taken out, by name: their section and what they were (JSON)."""
    rows = store.read().execute("SELECT name, section, body FROM gone_row")
    return {str(r["name"]): (str(r["section"]), str(r["body"])) for r in rows}
