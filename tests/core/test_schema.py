"""The job file's JSON Schema, judged by another library."""

import json
import unittest
from copy import deepcopy
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator  # type: ignore[import-untyped]
from jsonschema.exceptions import ValidationError  # type: ignore[import-untyped]

from hydrarch.core.components.base import kinds
from hydrarch.demo import JOBS, demo_job
from hydrarch.formats.jobfile import read_job_file, write_job_file
from hydrarch.formats.schema import job_schema

WHOLE: dict[str, Any] = json.loads(job_schema())
JUDGE = Draft202012Validator(WHOLE)
DOCS = Path(__file__).resolve().parents[2] / "docs"


class Schema(unittest.TestCase):
    """What it lets through, and what it tells."""

    def test_the_published_one_is_the_newest(self) -> None:
        """The file in docs is what core says today, and a schema."""
        Draft202012Validator.check_schema(WHOLE)
        self.assertEqual((DOCS / "job.schema.json").read_text("utf-8"), job_schema())

    def test_every_job(self) -> None:
        """Each demo job is one, as it is written."""
        for name in JOBS:
            with self.subTest(name):
                JUDGE.validate(json.loads(write_job_file(demo_job(name).plan, demo_job(name).events)))

    def test_it_agrees_with_our_own_reading(self) -> None:
        """What it refuses we refuse: an unknown field, a wrong type, a number out of its limits, a kind nobody knows."""
        good = json.loads(write_job_file(demo_job(JOBS[-1]).plan, demo_job(JOBS[-1]).events))
        for path, value in (
            (("plan", "points", 0, "x"), "far"),
            (("plan", "points", 0, "what", "kind"), "fountain"),
            (("plan", "conditions", "humidity"), 12.0),
            (("plan", "points", 0, "colour"), "red"),
            (("events", 0, "kind"), "guessed"),
            (("format",), "hydrarch/job/9"),
        ):
            with self.subTest(path=path):
                bad = deepcopy(good)
                at = bad
                for step in path[:-1]:
                    at = at[step]
                at[path[-1]] = value
                with self.assertRaises(ValidationError):
                    JUDGE.validate(bad)
                with self.assertRaises(ValueError):
                    read_job_file(json.dumps(bad))

    def test_each_kind_has_its_units(self) -> None:
        """Every component type is in it, and every number of one has its unit, but those that are counted."""
        bare = {
            f"{name}.{field}"
            for name, told in WHOLE["$defs"].items()
            if name in {k.model.__name__ for k in kinds().values()}
            for field, said in told["properties"].items()
            if said.get("type") == "number" and "unit" not in said
        }
        self.assertLessEqual({k.model.__name__ for k in kinds().values()}, set(WHOLE["$defs"]))
        self.assertEqual(bare, set())


if __name__ == "__main__":
    unittest.main()
