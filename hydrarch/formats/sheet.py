"""The sheet to print and hand over: page one has the drawing and what the next person needs to know; then drawings,
parts, cuts, tests and what lies out of sight, and every joint last, by section.

What is said is gathered here as plain text; the template sets it and escapes all of it by itself.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template

from hydrarch.core.base.units import show
from hydrarch.core.burial.crossings import crossings
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.commissioning.inverts import block_words, drains_as_laid
from hydrarch.core.commissioning.readiness import Readiness, SectionState, TestRecord
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.cutting.cuts import Nest, saw_marks
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.making.steps import words_for_time
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.states import joint_state, spoken_state
from hydrarch.core.report.as_laid import as_laid
from hydrarch.core.report.handing import sources_of, unfinished, what_valves_shut
from hydrarch.core.report.headlines import says
from hydrarch.formats.drawing import drawings
from hydrarch.formats.longsection import long_sections

__all__ = ["sheet_html"]


@dataclass(frozen=True, slots=True)
class Table:
    """A table of the sheet: rows of plain text under a head; `numbers` are the columns set to the right, `boxes` puts
    one to tick first.
    """

    title: str
    head: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    numbers: tuple[int, ...] = ()
    says: str = ""
    boxes: bool = False
    always: bool = True


@cache
def _template() -> Template:
    setting = Environment(
        loader=PackageLoader("hydrarch.formats"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
    )
    return setting.get_template("sheet.html")


def sheet_html(plan: Plan, derived: Derivation, ready: Readiness) -> str:
    """One self-contained page of HTML."""
    drawn = (*drawings(plan, derived), *long_sections(plan, derived))
    about = beginnings().get(plan.about)
    return _template().render(
        plan=plan,
        paper="letter" if plan.units == "us" else "A4",
        about=f"{about.title}. {says('survey', derived)}" if about is not None else says("survey", derived),
        when=_time(ready.now),
        first=_first(derived, ready),
        facts=_facts(plan, derived, ready),
        drawing=drawn[:1],
        drawings=drawn[1:],
        tables=(
            _parts(derived),
            _levels(plan),
            *_drains(plan, derived, ready),
            _crossings(plan, derived),
            _trench(plan, derived),
            _cuts(plan, derived),
            _sticks(plan, derived),
            _arcs(plan, derived),
            _sections(plan, derived, ready),
            _laid(plan, derived, ready),
            _changeover(derived, ready),
            _order(derived),
            _joints(derived, ready),
        ),
        cautions=tuple(dict.fromkeys((*derived.cautions, *ready.cautions))),
    )


def _where(joint: Joint) -> str:
    return f"{joint.place}, towards {joint.towards}" if joint.towards else joint.place


def _first(derived: Derivation, ready: Readiness) -> list[Table]:
    lost = [
        Table(
            "Made, and no longer on the drawing",
            ("where", "joint", "by"),
            tuple((j.place, j.joint, j.by) for j in ready.lost),
        )
    ]
    danger = tuple((p.says, p.mend) for p in derived.problems() if p.danger)
    told = [Table("Danger: do not build it like this", ("what", "repair"), danger)] if danger else []
    return [*told, *_handed(ready), *(lost if ready.lost else ()), *_otherwise(derived, ready), _open(derived, ready)]


def _otherwise(derived: Derivation, ready: Readiness) -> list[Table]:
    """Joints of which two people said otherwise."""
    rows = [
        (
            _where(j),
            f"{state.by} made it {_time(state.at)}: that stands",
            "; ".join(f"{o.by} {o.what} {_time(o.at)}" for o in state.others),
        )
        for j in derived.assembly.joints
        if (state := ready.joints.get(j.id)) is not None and state.others
    ]
    return (
        [
            Table(
                "Conflicting records: look at the joint together",
                ("where", "what stands", "what else was said"),
                tuple(rows),
            )
        ]
        if rows
        else []
    )


def _time(at: float | None) -> str:
    return "" if at is None else datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%d %H:%M UTC")


def _handed(ready: Readiness) -> list[Table]:
    """The last hand-over: by whom, who took it, and what was to come next."""
    h = ready.handed
    if h is None:
        return []
    when = datetime.fromtimestamp(h.at, UTC).strftime("%Y-%m-%d %H:%M UTC")
    taken = f"taken by {h.taken_by}" if h.taken_by else "nobody has taken it yet"
    return [
        Table(
            f"{h.by} handed it over on {when}; {taken}",
            says=f"Next: {h.next}",
            rows=tuple((t,) for t in h.told),
            head=("as it stood then",),
        )
    ]


def _open(derived: Derivation, ready: Readiness) -> Table:
    counted = ready.hand_over
    counts = "; ".join(counted.says) + "." if counted.says else "There are no joints yet."
    if counted.done and not ready.lost:
        return Table(f"{counted.whole}: no unfinished work", says=counts)
    known = derived.assembly.named
    rows = []
    for name in ready.first:
        state, joint = ready.joints[name], known[name]
        if state.state != "dry":
            continue  # counted by section, and marked among all joints
        rows.append((spoken_state(state), _where(joint), joint.method, f"{joint.a.what} into {joint.b.what}", state.by))
    if not rows:
        return Table("What is left to do", says=counts)
    dry = "Dry: it is no joint yet" if len(rows) == 1 else f"Dry: these {len(rows)} are no joints yet"
    return Table(dry, ("state", "where", "method", "joint", "by"), tuple(rows), says=counts)


def _facts(plan: Plan, derived: Derivation, ready: Readiness) -> list[Table]:
    """What the next person needs: where the water comes from, what each valve shuts, what is unfinished where."""
    valves = tuple((v.valve, v.says) for v in what_valves_shut(plan))
    return [
        t
        for t in (
            Table("Water comes from", ("source", "what it is"), tuple(sources_of(plan, derived))),
            Table("What each valve shuts", ("valve", "shut alone it leaves without water"), valves),
            Table("Unfinished, by section", ("section", "joints"), tuple(unfinished(derived.sections, ready))),
        )
        if t.rows
    ]


def _parts(derived: Derivation) -> Table:
    rows = tuple(("", str(r.count), f"+ {r.spare}" if r.spare else "", r.unit, r.name, r.detail) for r in derived.bill)
    return Table("Parts", ("", "count", "spare", "", "part", ""), rows, (1, 2), boxes=True)


def _levels(plan: Plan) -> Table:
    """How high everything lies: what a person with a level sets out by."""
    rows = [
        [
            p.label,
            *(str(show(v, q, plan.units)) for v, q in ((p.ground, "level"), (p.depth, "depth"), (p.level, "level"))),
        ]
        for p in plan.points
        if p.kind.joined
    ]
    return Table(
        "Levels", ("point", "ground", "pipe below ground", "level of the pipe"), _rows(rows), (1, 2, 3), always=False
    )


def _drains(plan: Plan, derived: Derivation, ready: Readiness) -> list[Table]:
    """Drains from the top down: inverts, cover and fall of each length, and how they lie by what was read."""
    rows = []
    for d in derived.drains:
        line = derived.layout.lines[d.run]
        inverts = [str(show(x, "invert", plan.units)) for x in d.inverts]
        covers = [str(show(x, "depth", plan.units)) if x > 0 else "none" for x in d.covers]
        rows.append(
            [
                f"{plan.names[d.upper]} to {plan.names[d.lower]}",
                f"{series(d.series).short} {d.size}",
                str(show(line.length, "length", plan.units)),
                *inverts,
                d.falls,
                block_words(d.fall, plan.units),
                " to ".join(covers),
            ]
        )
    head = ("drain", "pipe", "length", "invert at the top", "invert below", "falls", "set by", "cover")
    laid = drains_as_laid(plan, derived.layout, derived.drains, derived.inverts, derived.assembly.named, ready.joints)
    read = [
        [
            r.place,
            str(show(r.wanted, "invert", plan.units)),
            f"{show(r.read, 'invert', plan.units)}: {r.off}",
            f"{r.by}, {_time(r.at)}" + ("; a joint was made after it" if r.since else ""),
        ]
        for d in laid
        for r in d.reads
    ]
    rises = "; ".join(x for d in laid for x in d.rises)
    return [
        Table(
            "Drains: inverts, falls and cover",
            head,
            _rows(rows),
            (2, 3, 4),
            always=False,
            says=" ".join(n.says for n in derived.drained_to.notes),
        ),
        Table(
            "Pits and their pumps",
            ("pump", "what it does"),
            _rows([[plan.names[p.point], p.says] for p in derived.rounds.pits]),
            always=False,
        ),
        Table(
            "Inverts as read",
            ("at", "wanted", "read", "by"),
            _rows(read),
            (1,),
            always=False,
            says=f"Does not fall: {rises}." if rises else "",
        ),
    ]


def _crossings(plan: Plan, derived: Derivation) -> Table:
    """Where buried pipe crosses other pipe, and how far apart they are."""
    rows = []
    for c in crossings(plan, derived.layout, derived.settled.pipes):
        over, under = (" to ".join(plan.names[p] for p in plan.run_by_id[r].points) for r in (c.upper, c.lower))
        at = show(c.share * derived.layout.lines[c.upper].length, "length", plan.units)
        rows.append([over, under, f"{at} along the upper one", str(show(c.gap, "depth", plan.units))])
    head = ("above", "below", "where", "between them")
    return Table("Crossings", head, _rows(rows), (3,), always=False)


def _trench(plan: Plan, derived: Derivation) -> Table:
    """What is dug and what goes back."""
    dug, units = derived.trench, plan.units
    rows = [
        [
            " to ".join(plan.names[p] for p in plan.run_by_id[t.run].points),
            str(show(t.length, "length", units)),
            str(show(t.width, "depth", units)),
            " to ".join(dict.fromkeys(str(show(d, "depth", units)) for d in t.depths)),
        ]
        for t in dug.runs
    ]
    says = (
        f"To dig {show(dug.dig, 'earth', units)} as it lies; sand or pea gravel under and about the pipe "
        f"{show(dug.bed, 'earth', units)}, {show(dug.bed_weight, 'load', units)}; of the ground goes back "
        f"{show(dug.fill, 'earth', units)}, and {show(dug.over, 'earth', units)} is left over, loose. Pipes that share a "
        "trench are counted each. Locate cables and pipes first, and dig by hand near them. "
        f"Filled again: {' '.join(dug.backfill)}"
    )
    if dug.deep:
        says += (
            " Do not enter a trench as deep as these are unless its walls are shored or sloped: local rules say how."
        )
    return Table("Trench", ("from and to", "long", "wide", "deep"), _rows(rows), (1, 2, 3), says=says, always=False)


def _cuts(plan: Plan, derived: Derivation) -> Table:
    rows = [
        [
            str(n),
            str(show(p.length, "cut", plan.units)),
            f"{series(p.series).short} {p.size}{' with emitters' if p.made else ''}",
            p.a.name,
            p.a.takes,
            p.b.name,
            p.b.takes,
        ]
        for n, p in enumerate(derived.cuts.pieces, 1)
    ]
    head = ("piece", "length", "pipe", "from", "goes into", "to", "goes into")
    return Table("Cuts, socket stop to socket stop", head, _rows(rows), (0, 1))


def _arcs(plan: Plan, derived: Derivation) -> Table:
    """The corners the pipe takes by itself, and how far the trench opens there."""
    rows = [
        [
            a.name,
            str(show(a.turn, "angle", plan.units)),
            *(str(show(x, "cut", plan.units)) for x in (a.radius, a.before, a.length, a.widening)),
        ]
        for a in derived.cuts.arcs
    ]
    head = ("corner", "turn", "radius", "begins before it", "along the arc", "trench wider inside")
    return Table("Bends the pipe makes itself", head, _rows(rows), (1, 2, 3, 4, 5), always=False)


def _sticks(plan: Plan, derived: Derivation) -> Table:
    """Each stick or coil with its marks from one end: take it to the saw, tape hooked once."""
    number: dict[str, int] = {p.id: n for n, p in enumerate(derived.cuts.pieces, 1)}
    rows = []
    for nest in derived.cuts.nests:
        whole = [(_stick_name(plan, nest, n), s.cuts, s.rest, s.length) for n, s in enumerate(nest.sticks, 1)]
        used = [
            (f"offcut of {show(o.length, 'cut', plan.units)}", o.cuts, o.rest, o.length) for o in nest.offcuts if o.cuts
        ]
        for name, cuts, rest, length in used + whole:
            kerf = 0.0 if nest.coil else plan.conditions.kerf  # a coil is cut with shears
            marks = [
                f"whole, for piece {number[piece]}"
                if at >= length - 1e-6
                else f"{show(at, 'cut', plan.units)} ends piece {number[piece]}"
                for piece, at in saw_marks(cuts, kerf)
            ]
            rows.append(
                [
                    f"{series(nest.series).short} {nest.size}{' with emitters' if nest.made else ''}",
                    name,
                    "; ".join(marks),
                    str(show(rest, "cut", plan.units)),
                ]
            )
    head = ("pipe", "from", "mark from one end, blade beyond the mark", "left")
    return Table("At the saw", head, _rows(rows), (3,))


def _stick_name(plan: Plan, nest: Nest, number: int) -> str:
    """Which stick or coil it is, and how long where it is shorter than the others."""
    long = nest.sticks[number - 1].length
    shorter = f", {show(long, 'length', plan.units)} long" if long < nest.stock else ""
    return f"{'coil' if nest.coil else 'stick'} {number} of {len(nest.sticks)}{shorter}"


def _sections(plan: Plan, derived: Derivation, ready: Readiness) -> Table:
    rows = []
    for s in derived.sections:
        state = ready.sections[s.id]
        tests = "; ".join(
            f"{_told(plan, t)}, {t.by}" + (f", override: {t.override}" if t.override else "") for t in state.tests
        )
        rows.append(
            [
                "; ".join((s.name, *s.isolate, *_apart(s))),
                "run it and look" if s.sort == "run" else f"{show(s.test, 'pressure', plan.units)}",
                _stands(s, state, bool(tests)),
                tests,
            ]
        )
    return Table("Sections and tests", ("section", "test at", "stands", "tests"), _rows(rows), (1,))


def _stands(section: Section, state: SectionState, tried: bool) -> str:
    """What is known of a section, and no more."""
    if not state.proved:
        why = state.bury.why if tried else state.pressurise.why
        return f"BURIED WITHOUT PROOF: {why}" if state.buried else why
    return ("seen dry while it ran" if section.sort == "run" else "tested") + (", buried" if state.buried else "")


def _apart(section: Section) -> tuple[str, ...]:
    count = len(section.parted)
    below = len(section.below)
    return (
        *(
            (f"{count} {'joint' if count == 1 else 'joints'} parted for it: to be made again and looked at after it",)
            if count
            else ()
        ),
        *(
            (f"{below} below the check valve, where no test reaches: to be looked at before the pump goes down",)
            if below
            else ()
        ),
    )


def _told(plan: Plan, test: TestRecord) -> str:
    """A test as it was held: pressure, how long, when, with what, and what it came to."""
    held = f" for {words_for_time(test.ended - test.at)}" if test.ended is not None else ""
    pressure = "" if test.pressure is None else f"{show(test.pressure, 'pressure', plan.units)}{held}, "
    by = test.instrument
    read = "" if by is None else f", {' '.join(filter(None, (_INSTRUMENT[by.kind], by.name)))}"
    came = "passed" if test.passed else "FAILED"
    short = f", but does not count: {'; '.join(test.short)}" if test.passed and not test.proves else ""
    return f"{came}{short}: {pressure}{_time(test.at)}{read}"


def _laid(plan: Plan, derived: Derivation, ready: Readiness) -> Table:
    """Where hidden joints lie, for whoever has to find them again."""
    rows = []
    for j in as_laid(plan, derived, ready):
        tapes = "; ".join(f"{show(t.distance, 'length', plan.units)} from {t.name}" for t in j.tapes)
        if tapes and not j.sharp:
            tapes += " (they cross flat: dig wider)"
        made = f"{j.by}, {datetime.fromtimestamp(j.at, UTC):%Y-%m-%d}"
        proved = "" if j.proved_at is None else f"{datetime.fromtimestamp(j.proved_at, UTC):%Y-%m-%d}"
        read = f"invert read {show(j.read, 'invert', plan.units)}" if j.read is not None else ""
        depth = "; ".join(x for x in (str(show(j.depth, "depth", plan.units)), read, j.since) if x)
        rows.append(
            [j.place, f"{j.method} {j.size}", tapes or "no two marks are drawn to measure from", depth, made, proved]
        )
    return Table(
        "As laid",
        ("joint", "method", "measured", "depth", "made", "tested or seen dry"),
        _rows(rows),
        (3,),
        always=False,
    )


_INSTRUMENT = {"gauge": "gauge", "logger": "logger", "simulated": "SIMULATED gauge"}


def _changeover(derived: Derivation, ready: Readiness) -> Table:
    """The steps of a changeover, and what stays dead in the ground."""
    found, plan = derived.changed_over, derived.plan
    rows = (
        []
        if found is None
        else [
            (
                step.says,
                f"{step.note} It stops here: {step.stop}." if step.stop else step.note,
                ", ".join(plan.names[p] for p in step.dry),
                f"{done.by}, {_time(done.at)}" if (done := ready.stepped.get(step.name)) else "",
            )
            for step in found.steps
        ]
    )
    dead = [
        f"Dead after it: {series(x.series).name if x.series else 'old pipe'} {x.size or ''}, {' to '.join(plan.names[p] for p in x.points)}"
        + (f", {show(x.length, 'length', plan.units)}" if x.length else "")
        for x in plan.leaving
        if x.what == "old"
    ]
    bring = [] if found is None else [f"Bring, and take home again: {what}" for what in found.bring]
    return Table(
        "Changeover, in this order",
        ("step", "mind", "no water at", "done"),
        tuple(rows),
        says=". ".join([*bring, *dead]) + "." if rows else "",
        boxes=True,
        always=False,
    )


def _order(derived: Derivation) -> Table:
    """The glue-ups in working order: which joints each has, by their numbers, who makes it, and how far ahead to coat."""
    hands = len({g.hand for g in derived.work.groups})
    rows, n = [], 0
    for group in derived.work.groups:
        told = [f"person {group.hand}"] if hands > 1 else []
        if group.ahead > 1:
            told.append(
                f"one joint at a time; where one move closes several, coat {group.ahead} at the most before it, fewer "
                "in the sun"
            )
        first, n = n + 1, n + len(group.joints)
        rows.append([str(n) if first == n else f"{first} to {n}", group.title, "; ".join(told)])
    return Table("Working order", ("joints", "where", "to know"), _rows(rows), always=False)


def _joints(derived: Derivation, ready: Readiness) -> Table:
    """Every joint, by section, with its number in the working order."""
    known, tasks = derived.assembly.named, {t.joint: t for t in derived.work.tasks}
    number = {t.joint: n for n, t in enumerate(derived.work.tasks, 1)}
    rows = []
    for section in derived.sections:
        rows.append(["", section.name, "", "", "", ""])
        for name in sorted(section.joints, key=lambda j: number.get(j, len(number))):
            joint, state = known[name], joint_state(ready.joints, name)
            task = tasks.get(name)
            method = f"{joint.method}, sets an angle" if task is not None and task.angle else joint.method
            rows.append(
                [
                    str(number.get(name, "")),
                    _where(joint),
                    method,
                    f"{joint.a.what} into {joint.b.what}",
                    spoken_state(state),
                    state.by,
                ]
            )
    head = ("order", "where", "method", "joint", "state", "by")
    return Table("Every joint, by section", head, _rows(rows), (0,))


def _rows(rows: list[list[str]]) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(row) for row in rows)
