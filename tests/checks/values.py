"""Reads the outside values beside this file."""

import csv
import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent


@dataclass(frozen=True)
class Value:
    """One outside value: what it is of, on which inputs, how near is near enough, and who says so."""

    id: str
    quantity: str
    inputs: dict[str, Any]
    expected: float
    tolerance: float
    unit: str
    source: str


def values(name: str, prefix: str) -> Iterator[Value]:
    """The rows of a file whose id starts with `prefix`; at least one, or the check would check nothing."""
    with (HERE / f"{name}.csv").open(encoding="utf-8") as file:
        rows = [r for r in csv.DictReader(file) if r["id"].startswith(prefix)]
    if not rows:
        raise LookupError(f"no rows of {name} start with {prefix}")
    for r in rows:
        yield Value(
            id=r["id"],
            quantity=r["quantity"],
            inputs=json.loads(r["inputs"]),
            expected=float(r["expected"]),
            tolerance=float(r["tolerance"]),
            unit=r["unit"],
            source=r["source"],
        )


def networks() -> dict[str, Any]:
    """The solved networks."""
    found: dict[str, Any] = json.loads((HERE / "network.json").read_text("utf-8"))["networks"]
    return found
