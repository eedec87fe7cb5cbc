"""A line of measures drawn into a plan: from a point of the line, or measured from a mark."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import takewhile
from math import atan2, dist, hypot, pi

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.fittings import pipe_end
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.drains import DrainPump, Inlet
from hydrarch.core.components.marks import Mark
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.components.synonyms import named
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.measures import At, Go, Join, Measured, Put, SizeSaid, To
from hydrarch.core.plan.document import Plan, Point

__all__ = ["LineDrawn", "draw_measures", "heading_of"]

_SAME = 0.005  # m within which two places are one


@dataclass(frozen=True, slots=True)
class LineDrawn:
    """A plan with a line of measures drawn into it, and the point it ends at."""

    plan: Plan
    end: str


def draw_measures(plan: Plan, start: str, steps: tuple[Measured, ...]) -> LineDrawn:
    """Draw a line of measures from a point of a plan, under that point's ground; the plan itself stays as it is.

    From a mark, what comes before the first thing only measures to where that thing is set: no pipe goes to a mark. A
    length face to face is drawn so that as much of its pipe is seen between the two fittings as was said. With no
    `start` the first words say where it begins: "at Tap 1", or, where nothing is drawn yet, the thing that is to stand
    in the middle of the sheet. Raises `HydrarchError` where a thing would have to stand where another thing is, nothing
    was drawn yet to set it on, a length has no fitting at one of its faces, or a name is not there, or twice. A length
    that ends on a point of the line leads the pipe to that point.
    """
    if start and start not in plan.by_id:
        raise HydrarchError("the point to draw from is not on the drawing any more: choose another")
    done = _Line(plan, start, steps)
    if not any(isinstance(s, Go) and s.faces for s in steps):
        return LineDrawn(done.draft.plan(), done.here)
    centres = tuple(_centred(done, n, s) if isinstance(s, Go) and s.faces else s for n, s in enumerate(steps))
    done = _Line(plan, start, centres)
    return LineDrawn(done.draft.plan(), done.here)


class _Line:
    """A line under way: the draft, where it has come to, and the run of each step."""

    def __init__(self, plan: Plan, start: str, steps: tuple[Measured, ...]) -> None:
        self.draft, self.here, self.runs = Draft(plan), start, dict[int, str]()
        self.begun, self.met, self.size = start, False, ""
        self.before = frozenset(plan.by_id)
        self.put: dict[str, list[str]] = {}
        """What this very line set down without a name, by kind, in its order."""
        numbered = list(enumerate(steps))
        if not start:
            self._begin(plan, steps)
        elif not plan.by_id[start].kind.joined:
            numbered = self._from_mark(plan, numbered)
        for n, step in numbered:
            self._do(n, step)

    def _begin(self, plan: Plan, steps: tuple[Measured, ...]) -> None:
        """Come to where the first words say that the line begins."""
        first = next((s for s in steps if not isinstance(s, SizeSaid)), None)
        if isinstance(first, At):
            return  # it is gone to as it comes
        if plan.points:
            raise HydrarchError("say where it begins: choose a point on the drawing, or write 'at Tap 1: 3 n, valve'")
        if not isinstance(first, Put) or not kind_named(first.kind).joined:
            raise HydrarchError("say first what the line begins at: mains, 12 e, tap")
        about = beginnings().get(plan.about)
        depth = about.depth if about is not None else Point.model_fields["depth"].default
        if "sunk" in kind_named(first.kind).traits:
            depth += sum(takewhile(bool, (_rise(s) for s in steps if isinstance(s, Go))))  # down the hole
        self.here = self.begun = self.draft.add_point("B", x=0.0, y=0.0, ground=0.0, depth=depth, what={"kind": "bend"})

    def _do(self, n: int, step: Measured) -> None:
        if isinstance(step, Put):
            self._set(step)
        elif isinstance(step, SizeSaid):
            self.size = step.size
        elif isinstance(step, At):
            self.here, self.met, self.size = self._named(step.name), True, ""
        elif isinstance(step, Join):
            self._lead(n, self._named(step.name))
            self.met = True
        else:
            way = self._way(step)
            there = self._standing(way)
            self._lead(n, there or self._point(self.draft.spots[self.here], way))
            self.met = there is not None

    def _lead(self, n: int, to: str) -> None:
        """A pipe from where the line has come to, and on from there."""
        if to == self.here:
            raise HydrarchError("a pipe cannot lead to the point it begins at")
        if any(to in (r["a"]["point"], r["b"]["point"]) for r in self.draft.runs_at(self.here)):
            raise HydrarchError(f"a pipe leads to {self._label(to)} already: the second would lie in its place")
        run = self.runs[n] = self.draft.add_run(self.here, to)
        self.here = to
        if self.size:
            body = next(r for r in self.draft.body["runs"] if r["id"] == run)
            name = body.get("series") or self.draft.body["conditions"]["series"]
            sizes = [item.size for item in series(name).sizes] if name else []
            if self.size not in sizes:
                made = (
                    f"{series(name).short} is made in {', '.join(sizes)}" if name else "the job has no usual pipe yet"
                )
                raise HydrarchError(f"there is no {self.size} pipe to draw with: {made}")
            body["size"] = self.size

    def _set(self, step: Put) -> None:
        if self.met and len(self.draft.runs_at(self.here)) > 1:
            raise HydrarchError(f"{self._label(self.here)} was there before: go on a length first, then set it down")
        _put(self.draft, self.here, step.kind)
        if step.hot:
            self.draft.spots[self.here]["what"] |= {"side": "hot"}
        if not step.name:  # what has a name is called by it, and leaves the count of the others alone
            self.put.setdefault(step.kind, []).append(self.here)
        if step.name:
            if any(p["name"] == step.name for p in self.draft.body["points"]):
                raise HydrarchError(f"{step.name} is the name of another thing already")
            self.draft.spots[self.here] |= {"name": step.name, "number": None}

    def _label(self, point: str) -> str:
        spot = self.draft.spots[point]
        return str(
            spot["name"] or f"{kind_named(spot['what']['kind']).title.lower()} {spot.get('number') or ''}".strip()
        )

    def _named(self, words: str) -> str:
        """The point that is meant: the start, one by its name, a plain one by kind and number, or the so-manyth that
        this line set down.
        """
        wanted = " ".join(words.lower().split()).removeprefix("the ")
        if wanted in ("start", "beginning"):
            return self.begun
        spots = self.draft.body["points"]
        labels = {
            p["id"]: (p["name"].lower(), *([self._label(p["id"]).lower()] * (p["id"] in self.before))) for p in spots
        }
        found = [p for p, called in labels.items() if wanted in called]
        kind, _, number = wanted.rpartition(" ")
        made = self.put.get(named(kind) or "", []) if number.isdigit() else []
        if not made and not number.isdigit():
            of = named(wanted)
            found = found or [p["id"] for p in spots if p["what"]["kind"] == of]
        elif number.isdigit():
            of, nth = named(kind), int(number)
            seen = (p for p in spots if p["id"] in self.before)  # the numbers of what this line draws nobody knows yet
            found = found or [p["id"] for p in seen if p["what"]["kind"] == of and p.get("number") == nth]
            if nth <= len(made) and made[nth - 1] not in found:
                found = [*found, made[nth - 1]]
        found = list(dict.fromkeys(found))
        if len(found) == 1:
            return str(found[0])
        if found:
            raise HydrarchError(f"more than one thing here could be {words}: give the new one a name, 'tee called X'")
        names = ", ".join(p["name"] for p in spots if p["name"])
        raise HydrarchError(f"nothing here is called {words}" + (f"; there are {names}" if names else ""))

    def _standing(self, way: tuple[float, float, float]) -> str | None:
        """The point of the line that stands where a length ends."""
        old = self.draft.spots[self.here]
        end = (old["x"] + way[0], old["y"] + way[1], old["ground"] - old["depth"] + way[2])
        for p in self.draft.body["points"]:
            here = p["id"] == self.here or not kind_named(p["what"]["kind"]).joined
            if not here and dist(end, (p["x"], p["y"], p["ground"] - p["depth"])) < _SAME:
                return str(p["id"])
        return None

    def _way(self, step: Go | To) -> tuple[float, float, float]:
        if isinstance(step, Go):
            return step.way
        old = self.draft.spots[self.here]
        up = step.height + old["depth"]
        if abs(up) < 1e-6:
            raise HydrarchError(f"it lies {step.text.removeprefix('to ')} already")
        return 0.0, 0.0, up

    def _point(self, old: dict[str, float], way: tuple[float, float, float]) -> str:
        return self.draft.add_point(
            "B",
            x=round(old["x"] + way[0], 6),
            y=round(old["y"] + way[1], 6),
            ground=old["ground"],
            depth=round(old["depth"] - way[2], 6),
            what={"kind": "bend"},
        )

    def _from_mark(self, plan: Plan, steps: list[tuple[int, Measured]]) -> list[tuple[int, Measured]]:
        """Measure to where the line begins; the steps that are left. How high is told from the ground at the mark."""
        first = next((i for i, (_, s) in enumerate(steps) if isinstance(s, Put)), len(steps))
        offset = [s for _, s in steps[:first]]
        ways = [s.way for s in offset if isinstance(s, Go)]
        east, north, up = (sum(w[n] for w in ways) for n in range(3))
        height = next((s.height for s in reversed(offset) if isinstance(s, To)), up)
        lines = [p for p in plan.points if p.kind.joined]
        mark = plan.by_id[self.here]
        near = min(lines, key=lambda p: hypot(p.x - mark.x, p.y - mark.y), default=None)
        usual = near.depth if near is not None else Point.model_fields["depth"].default
        said = height if height or any(isinstance(s, To) for s in offset) else -usual
        spot = {"x": mark.x, "y": mark.y, "ground": mark.ground, "depth": 0.0}
        self.here = self._point(spot, (east, north, said))
        return steps[first:]


def _rise(go: Go) -> float:
    """How far (m) a length goes straight up; 0 where it goes any other way."""
    return go.length if go.tilt > 1.5 else 0.0


def _centred(done: _Line, step: int, go: Go) -> Go:
    """A length face to face as one from centre to centre: what the fittings at both ends take of it is added."""
    run = done.runs.get(step)
    plan = done.draft.plan()
    piece = next((p for p in derive(plan).cuts.pieces if p.runs == (run,)), None) if run is not None else None
    if piece is None or not (piece.a.takes and piece.b.takes):
        raise HydrarchError(
            f"part {step + 1} is said face to face, and no pipe of it ends in a fitting on both sides: say it "
            "centre to centre"
        )
    seen = piece.length - (piece.covered or 2 * pipe_end(piece.series, piece.size).engagement)
    return replace(go, length=go.length + piece.centres - seen, faces=False)


def _pumped(draft: Draft, here: str) -> bool:
    """Whether the line that comes to a point is lifted by a pit's pump or a washer's."""
    seen, left = set[str](), [here]
    while left:
        at = left.pop()
        if at in seen:
            continue
        seen.add(at)
        kind = kind_named(draft.spots[at]["what"]["kind"])
        if at != here and issubclass(kind.model, DrainPump):
            return True
        if at == here or not issubclass(kind.model, Inlet):  # an inlet holds what falls into it apart from its drain
            left += [r[side]["point"] for r in draft.runs_at(at) for side in ("a", "b")]
    return False


def _turn_towards(draft: Draft, source: str) -> None:
    """Let the devices of a line that was drawn to a source face away from it, as far as the next branch."""
    other = {"in": "out", "out": "in"}
    here, last = source, ""
    while True:
        runs = [r for r in draft.runs_at(here) if r["id"] != last]
        if len(runs) != 1:
            return
        last = runs[0]["id"]
        far = runs[0]["b" if runs[0]["a"]["point"] == here else "a"]
        here = far["point"]
        if far["port"] == "out" and len(draft.runs_at(here)) == 2:
            for run in draft.runs_at(here):
                for side in ("a", "b"):
                    if run[side]["point"] == here:
                        run[side]["port"] = other.get(run[side]["port"], run[side]["port"])


def _put(draft: Draft, here: str, kind: str) -> None:
    """Let a plain point be a thing: its runs come to the thing's ports, the first to its inlet."""
    point, made = draft.spots[here], kind_named(kind)
    if not kind_named(point["what"]["kind"]).plain:
        raise HydrarchError(
            f"{point['name'] or point['id']} stands there already: go on a length first, then set the "
            f"{made.title.lower()} down"
        )
    about = beginnings().get(draft.body.get("about", ""))
    point["what"] = made.start.model_dump(mode="json") | (about.starts.get(kind, {}) if about is not None else {})
    if "height" in point["what"] and point["depth"] < 0:  # it stands where it was measured to, on no riser
        point["what"]["height"] = -point["depth"]
    if made.role != "line":
        point["name"] = draft.name_for(made.title)
    # where a line begins, whichever way it was drawn; but what is pumped falls into an inlet, and a second pump lifts
    # into the line that another one lifts into
    pumped = issubclass(made.model, (Inlet, DrainPump)) and _pumped(draft, here)
    heads = made.role == "source" or (
        pumped if issubclass(made.model, DrainPump) else issubclass(made.model, Inlet) and not pumped
    )
    for run in draft.runs_at(here):
        for side, way in (("b", "out" if heads else "in"), ("a", "out")):
            if run[side]["point"] == here:
                run[side]["port"] = ""
                run[side]["port"] = draft.port(here, way)
    if made.role == "source" or (heads and issubclass(made.model, DrainPump)):
        _turn_towards(draft, here)
    if isinstance(made.start, Outlet) and draft.body["scenarios"]:
        draft.body["scenarios"][0]["open"].append(here)


def heading_of(plan: Plan, point: str) -> float:
    """The way (rad from east) the last run comes to a point; east where none does, or it stands upright.

    Along a long mark, such as a wall, the way it goes.
    """
    mark = plan.by_id[point].what
    if isinstance(mark, Mark) and mark.long:
        return atan2(mark.north, mark.east) % (2 * pi)
    for run in reversed(plan.runs):
        if point in run.points:
            far: Point = plan.by_id[run.points[0] if run.points[1] == point else run.points[1]]
            here = plan.by_id[point]
            if hypot(here.x - far.x, here.y - far.y) > 1e-6:
                return atan2(here.y - far.y, here.x - far.x) % (2 * pi)
    return 0.0
