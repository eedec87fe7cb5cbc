"""Reading the data files beside this module: one record a row, each with its source, a bad row refused by line."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator
from importlib.resources import files
from typing import TypeVar

from hydrarch.core.base.errors import BadRow

__all__ = ["read_rows", "yes_or_no"]

Record = TypeVar("Record")


def read_rows(package: str, name: str, make: Callable[[dict[str, str]], Record]) -> tuple[Record, ...]:
    """Make one record of each row of `name` in `package`'s data folder.

    Raises `BadRow` with file, line and reason if a row has no source, has a blank where `make` needs a value, or
    does not hold together.
    """
    return tuple(parse_rows(name, files(package).joinpath("data", name).read_text("utf-8"), make))


def parse_rows(name: str, text: str, make: Callable[[dict[str, str]], Record]) -> Iterator[Record]:
    """The same for `text` that was read from a file called `name`."""
    reader = csv.DictReader(text.splitlines())
    for row in reader:
        if None in row or None in row.values():
            raise BadRow(name, reader.line_num, "it has more or fewer columns than the head of the file")
        if not row.get("source", "").strip():
            raise BadRow(name, reader.line_num, "it names no source; write one, or 'from memory'")
        try:
            yield make(row)
        except (ValueError, KeyError) as error:
            raise BadRow(name, reader.line_num, str(error)) from error


def yes_or_no(text: str) -> bool:
    """A cell that says yes or no; raises ValueError for anything else."""
    if text not in ("yes", "no"):
        raise ValueError(f"'{text}' is neither yes nor no")
    return text == "yes"
