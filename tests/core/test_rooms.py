"""The rooms of the package and which way imports point between them."""

import ast
import doctest
import importlib
import unittest
from graphlib import TopologicalSorter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2] / "hydrarch"
OUTER = {
    "core": set(),
    "store": {"core"},
    "formats": {"core"},
    "devices": {"core"},
    "api": {"core", "store", "formats", "devices"},
}
CORE = (
    "base",
    "catalogue",
    "components",
    "plan",
    "site",
    "building",
    "hydraulics",
    "drainage",
    "burial",
    "coverage",
    "circulation",
    "editing",
    "sizing",
    "wells",
    "joining",
    "cutting",
    "making",
    "repair",
    "changeover",
    "record",
    "commissioning",
    "diagnosis",
    "derivation",
    "measuring",
    "report",
    "model",
    "practice",
)
"""The rooms of core in the order in which they may be imported: each knows those before it alone (docs/map.md)."""
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


def imports(path: Path, for_types: bool = True) -> set[str]:
    """The modules a file imports, in full; without those it names for types alone, where that is asked."""
    found: set[str] = set()
    tree = ast.parse(path.read_text("utf-8"))
    if not for_types:
        tree.body = [n for n in tree.body if not (isinstance(n, ast.If) and ast.unparse(n.test) == "TYPE_CHECKING")]
    for node in ast.walk(tree):
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
        """Core imports nothing of ours outside itself, store, formats and devices only core, api none of cli or
        demo.
        """
        for top, allowed in OUTER.items():
            for path in (ROOT / top).rglob("*.py"):
                for name in imports(path):
                    parts = name.split(".")
                    if parts[0] == "hydrarch" and len(parts) > 1 and parts[1] != top:
                        self.assertIn(parts[1], allowed, f"{path.relative_to(ROOT)} imports {name}")

    def test_core_rooms_are_a_row(self) -> None:
        """Inside core a room imports only itself and rooms before it in the row; no module lies beside the rooms."""
        rank = {name: i for i, name in enumerate(CORE)}
        for path in (ROOT / "core").rglob("*.py"):
            mine = room(path)
            if mine == "__init__":
                continue
            self.assertIn(mine, rank, f"{mine} has no place in the row")
            for name in imports(path):
                parts = name.split(".")
                if parts[:2] == ["hydrarch", "core"] and len(parts) > 2:
                    self.assertLessEqual(rank[parts[2]], rank[mine], f"{path.relative_to(ROOT)} imports {name}")

    def test_no_module_needs_itself(self) -> None:
        """No module of core is imported, over others, by what it imports."""
        needs: dict[str, set[str]] = {}
        for path in (ROOT / "core").rglob("*.py"):
            name = ".".join(("hydrarch", *path.relative_to(ROOT).with_suffix("").parts)).removesuffix(".__init__")
            needs[name] = {n for n in imports(path, for_types=False) if n.startswith("hydrarch.core.") and n != name}
        self.assertGreater(len(tuple(TopologicalSorter(needs).static_order())), 150)

    def test_a_name_means_one_thing(self) -> None:
        """No two public classes have one name, and no two modules, classes or functions of core."""
        files = [p for p in ROOT.rglob("*.py") if not p.name.startswith("_")]
        names: dict[str, list[str]] = {}
        for path in files:
            core = path.relative_to(ROOT).parts[0] == "core"
            if core:
                names.setdefault(f"module {path.stem}", []).append(str(path.relative_to(ROOT)))
            for node in ast.parse(path.read_text("utf-8")).body:
                public = isinstance(node, (ast.ClassDef, ast.FunctionDef) if core else ast.ClassDef)
                if public and not node.name.startswith("_"):  # type: ignore[attr-defined]
                    names.setdefault(node.name, []).append(str(path.relative_to(ROOT)))  # type: ignore[attr-defined]
        self.assertEqual({n: where for n, where in names.items() if len(where) > 1}, {})

    def test_each_room_says_what_it_is(self) -> None:
        """The first words of a room tell a newcomer what it holds, and the map shows it."""
        told = (ROOT.parent / "docs" / "map.md").read_text("utf-8")
        for name in CORE:
            self.assertTrue(importlib.import_module(f"hydrarch.core.{name}").__doc__, name)
            self.assertIn(f"`{name}`", told)

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
