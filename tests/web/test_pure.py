"""The page's own logic without a browser: edits, merging, undo, what is kept and sent.

Written in TypeScript, run by Node, counted here.
"""

import atexit
import json
import os
import re
import subprocess
import tempfile
import unittest
from collections.abc import Callable
from functools import cache
from pathlib import Path

from pydantic import TypeAdapter

from hydrarch.api.reference import Reference, reference
from hydrarch.demo import thistledown

WEB = Path(__file__).resolve().parents[2] / "web"
CASES = WEB.parent / "tests" / "cases"
FILES = sorted((WEB / "tests").glob("*.test.ts"))


@cache
def bundled() -> Path:
    """Where the files of tests lie, each made one script that Node runs, beside the reference and the demo they
    read.
    """
    folder = tempfile.TemporaryDirectory()
    atexit.register(folder.cleanup)
    given = Path(folder.name)
    (given / "reference.json").write_bytes(TypeAdapter(Reference).dump_json(reference()))
    (given / "demo.json").write_text(thistledown().model_dump_json(), "utf-8")
    how = ["--dir", str(given), "--entry-file-names", "[name].mjs", "--format", "esm", "--platform", "node"]
    build = ["npx", "--no-install", "rolldown", *map(str, FILES), *how]
    subprocess.run(build, cwd=WEB, check=True, capture_output=True)
    return given


@cache
def results(file: Path) -> dict[str, str]:
    """What each test of a file came to: "" where it passed, else what Node said."""
    given = bundled()
    env = {
        **os.environ,
        "HYDRARCH_REFERENCE": str(given / "reference.json"),
        "HYDRARCH_DEMO": str(given / "demo.json"),
        "HYDRARCH_CASES": str(CASES),
        "TZ": "UTC",
    }
    ran = subprocess.run(
        ["node", "--test", "--test-reporter=tap", str(given / f"{file.stem}.mjs")],
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    found = {}
    for ok, name, told in re.findall(
        r"^\s*(ok|not ok) \d+ - (.+?)\n((?:\s+---\n.*?\n\s+\.\.\.\n)?)", ran.stdout, re.S | re.M
    ):
        found[name.replace("\\", "")] = "" if ok == "ok" else told or ran.stdout
    if not found:
        raise AssertionError(ran.stdout + ran.stderr)
    return found


def names(file: Path) -> list[str]:
    """The tests of a file by their names; one name with a part filled in stands for several."""
    text = file.read_text("utf-8")
    return [json.loads(f'"{n}"') if q == '"' else n for q, n in re.findall(r'^\s*test\((["`])(.+?)\1, ', text, re.M)]


class Pure(unittest.TestCase):
    """Each test of the page's logic."""


def _one(file: Path, name: str) -> Callable[[Pure], None]:
    def check(self: Pure) -> None:
        like = re.compile(re.sub(r"\\\$\\\{.*?\\\}", ".+", re.escape(name)) + "$")
        mine = {n: told for n, told in results(file).items() if like.match(n)}
        self.assertTrue(mine, f"{name} did not run")
        for told, says in mine.items():
            self.assertEqual(says, "", f"{told}\n{says}")

    check.__doc__ = name
    return check


for _file in FILES:
    for _number, _name in enumerate(names(_file), 1):
        setattr(Pure, f"test_{_file.stem.removesuffix('.test')}_{_number:02}", _one(_file, _name))


if __name__ == "__main__":
    unittest.main()
