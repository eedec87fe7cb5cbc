"""The rooms of the package and which way imports point between them."""

import ast
import doctest
import importlib
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2] / "hydrarch"
OUTER = {
    "core": set(),
    "store": {"core"},
    "formats": {"core"},
    "devices": {"core"},
    "api": {"core", "store", "formats", "devices"},
}
CORE = [
    {"errors", "quantities", "identity"}, {"remember", "numerals"}, {"units", "graph", "problems", "progress"}, {"catalogue"}, {"kinds"}, {"conditions", "cutbox", "rows", "basins", "underlay", "stations"}, {"plan"}, {"references"}, {"upgrades", "systems", "risers", "book"},
    {"draft", "parting"}, {"layout"}, {"backflow", "causes", "fitness", "marks", "hydraulics"}, {"coverage", "circulation"}, {"turning"}, {"mends"}, {"sizing"}, {"wells"}, {"joining"}, {"cutting"}, {"making"}, {"proving"}, {"chain"},
    {"aslaid", "beds", "carried", "drawn", "filling", "giving", "groups", "headlaying", "jetring", "levels", "looped", "measures", "nozzling", "reminders", "saying", "shopping", "working", "whatif"},
]  # fmt: skip
FOREIGN = {
    "fastapi",
    "starlette",
    "uvicorn",
    "sqlite3",
    "httpx",
    "http",
    "urllib",
    "socket",
    "time",
    "datetime",
    "asyncio",
    "threading",
}


def imports(path: Path) -> set[str]:
    """The modules a file imports, in full."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


def room(path: Path) -> str:
    """The room of core a file is in."""
    return path.relative_to(ROOT / "core").parts[0].removesuffix(".py")


class Rooms(unittest.TestCase):
    """Imports point one way."""

    def test_core_is_pure(self) -> None:
        """No file of core imports a web framework, a database, HTTP, threads or a clock."""
        for path in (ROOT / "core").rglob("*.py"):
            for name in imports(path):
                self.assertNotIn(name.split(".")[0], FOREIGN, f"{path.name} imports {name}")

    def test_outer_rooms_point_inward(self) -> None:
        """Core imports nothing of ours outside itself, store, formats and devices only core, api none of cli or demo."""
        for top, allowed in OUTER.items():
            for path in (ROOT / top).rglob("*.py"):
                for name in imports(path):
                    parts = name.split(".")
                    if parts[0] == "hydrarch" and len(parts) > 1 and parts[1] != top:
                        self.assertIn(parts[1], allowed, f"{path.relative_to(ROOT)} imports {name}")

    def test_core_rooms_are_a_row(self) -> None:
        """Inside core a room imports only itself and rooms before it in the row."""
        rank = {name: i for i, names in enumerate(CORE) for name in names}
        for path in (ROOT / "core").rglob("*.py"):
            mine = room(path)
            if mine == "__init__":
                continue
            self.assertIn(mine, rank, f"{mine} has no place in the row")
            for name in imports(path):
                parts = name.split(".")
                if parts[:2] == ["hydrarch", "core"] and len(parts) > 2:
                    self.assertLessEqual(rank[parts[2]], rank[mine], f"{path.relative_to(ROOT)} imports {name}")

    def test_every_public_name_exists(self) -> None:
        """What a module lists in __all__ is there."""
        for path in ROOT.rglob("*.py"):
            if path.name in ("__init__.py", "__main__.py"):
                continue
            module = importlib.import_module(".".join(("hydrarch", *path.relative_to(ROOT).with_suffix("").parts)))
            for name in getattr(module, "__all__", ()):
                self.assertTrue(hasattr(module, name), f"{module.__name__} lists {name}")

    def test_docstring_examples_run(self) -> None:
        """The examples in docstrings give what they say."""
        ran = 0
        for path in (ROOT / "core").rglob("*.py"):
            module = importlib.import_module(
                ".".join(("hydrarch", *path.relative_to(ROOT).with_suffix("").parts)).removesuffix(".__init__")
            )
            result = doctest.testmod(module)
            ran += result.attempted
            self.assertEqual(result.failed, 0, module.__name__)
        self.assertGreater(ran, 5)
