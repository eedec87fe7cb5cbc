"""Edits that the page does too: both run the same cases, tests/cases/edits."""

import json
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from hydrarch.core.components.base import kind_named
from hydrarch.core.editing.draft import Draft
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.references import become

FOLDER = Path(__file__).parents[1] / "cases" / "edits"
Body = dict[str, Any]


def cases() -> Iterator[tuple[str, Body]]:
    """Every case with its name."""
    for file in sorted(FOLDER.glob("*.json")):
        for case in json.loads(file.read_text("utf-8")):
            yield f"{file.stem}: {case['name']}", case


def whole(short: Body) -> Plan:
    """A plan of what a case says of it."""
    points = [
        {
            "id": i,
            "x": x,
            "y": y,
            "depth": -level,
            "what": kind_named(kind).start.model_dump(mode="json"),
            "name": short.get("names", {}).get(i, ""),
            "number": short.get("numbers", {}).get(i),
        }
        for i, kind, x, y, level in short["points"]
    ]
    runs = []
    for i, a, pa, qa, b, pb, qb in short["runs"]:
        run: Body = {"id": i, "a": {"id": a, "point": pa, "port": qa}, "b": {"id": b, "point": pb, "port": qb}}
        runs.append(run | short.get("pipe", {}))
    body = {
        "name": "case",
        "points": points,
        "runs": runs,
        "scenarios": [{"id": "all", "name": "All", "open": short["open"]}] if "open" in short else [],
        "zones": [{"id": "zone", "name": "Lawn", "heads": short["zoned"]}] if "zoned" in short else [],
        "ways": [{"end": e, "fittings": []} for e in short.get("ways", ())],
        "nodes": [{"point": p, "how": "fitting", "fittings": []} for p in short.get("nodes", ())],
    }
    return Plan.model_validate_json(json.dumps(body))


def short(before: Plan, after: Plan) -> Body:
    """What a case says of a plan, with new ids numbered."""
    old = {i for p in before.points for i in (p.id,)} | {i for r in before.runs for i in (r.id, r.a.id, r.b.id)}
    names: dict[str, str] = {}

    def called(name: str) -> str:
        return name if name in old else names.setdefault(name, f"new{len(names) + 1}")

    found: Body = {
        "points": [[called(p.id), p.what.kind, p.x, p.y, p.level] for p in after.points],
        "runs": [
            [called(r.id), *(v for e in r.ends for v in (called(e.id), called(e.point), e.port))] for r in after.runs
        ],
        "pipes": [[r.series, r.size, r.situation] for r in after.runs],
    }
    if after.scenarios:
        found["open"] = [called(p) for p in after.scenarios[0].open]
    if after.zones:
        found["zoned"] = [called(p) for p in after.zones[0].heads]
    return found | {"ways": [w.end for w in after.ways], "nodes": [n.point for n in after.nodes]}


def edited(plan: Plan, case: Body) -> Plan:
    """A plan after the edit of a case."""
    edit, draft = case["edit"], Draft(plan)
    match edit["do"]:
        case "split":
            kind = kind_named(edit["with"])
            what = kind.start.model_dump(mode="json")
            draft.split(
                edit["run"], edit["share"], kind.letter, what, comes=case.get("comes", {}).get(edit["run"], "a")
            )
        case "draw":
            draft.add_run(edit["from"], edit["to"], fed=set(case.get("fed", ())))
        case "remove":
            draft.remove(edit.get("points", ()), edit.get("runs", ()))
        case "become":
            kind = kind_named(edit["kind"])
            body = become(draft.body, edit["point"], outlet=kind.role == "outlet")
            draft = Draft(body)
            draft.become(edit["point"], kind.start.model_dump(mode="json"), case.get("comes", {}))
        case other:
            raise AssertionError(f"there is no edit {other}")
    return draft.plan()


def called(plan: Plan, kind: str) -> str | int | None:
    """What a new thing of a kind is called that is set down in a plan: its name, or a plain place's number."""
    draft = Draft(plan)
    made = draft.add_point("X", x=50.0, y=50.0, what=kind_named(kind).start.model_dump(mode="json"))
    spot = draft.spots[made]
    return str(spot["name"]) or spot.get("number")


class Edits(unittest.TestCase):
    """The core's side."""

    def test_cases(self) -> None:
        """Each case comes to what it says."""
        count = 0
        for name, case in cases():
            with self.subTest(name):
                plan = whole(case["plan"])
                if case["edit"]["do"] == "set":
                    self.assertEqual(called(plan, case["edit"]["kind"]), case["result"])
                    continue
                self.assertEqual(short(plan, edited(plan, case)), case["result"])
            count += 1
        self.assertGreater(count, 20)
