"""The sheet to print and hand over: joints that are dry or unproved stand first, then parts, cuts, sections, joints."""

from __future__ import annotations

from datetime import UTC, datetime
from html import escape

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.chain import Derived
from hydrarch.core.cutting.cuts import saw_marks
from hydrarch.core.joining.records import Joint
from hydrarch.core.making.state import MADE, joint_state
from hydrarch.core.plan import Plan
from hydrarch.core.proving.readiness import Readiness
from hydrarch.core.units import show

__all__ = ["sheet_html"]

_STYLE = """
body { font: 11pt/1.35 'Atkinson Hyperlegible Next', 'Liberation Sans', sans-serif; color: #16212a; margin: 1.5cm; }
h1 { font-size: 17pt; margin: 0 } h2 { font-size: 12.5pt; margin: 1.1em 0 .3em } p { margin: .2em 0 }
table { border-collapse: collapse; width: 100% } th, td { text-align: left; padding: .15em .5em .15em 0; border-bottom: 1px solid #d6d0c2; vertical-align: top }
th { font-weight: 600 } .n { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap }
.first { border: 2px solid #a34604; padding: .4em .8em; } .box { display: inline-block; width: .8em; height: .8em; border: 1.5px solid #16212a; }
tr { break-inside: avoid } h2 { break-after: avoid } @page { margin: 1.2cm }
"""


def sheet_html(plan: Plan, derived: Derived, ready: Readiness) -> str:
    """One self-contained page of HTML."""
    when = datetime.fromtimestamp(ready.now, UTC).strftime("%Y-%m-%d %H:%M UTC")
    parts = [
        _first(derived, ready),
        _parts(derived),
        _cuts(plan, derived),
        _sticks(plan, derived),
        _arcs(plan, derived),
        _sections(plan, derived, ready),
        _joints(derived, ready),
        _cautions(derived, ready),
    ]
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{escape(plan.name)}</title><style>{_STYLE}</style>"
        f"<h1>{escape(plan.name)}</h1><p>As it stands on {when}. Local codes and licensed practice come before this sheet.</p>"
        + "".join(parts)
        + "</html>"
    )


def _table(head: list[str], rows: list[list[str]], numbers: tuple[int, ...] = ()) -> str:
    def cell(tag: str, i: int, text: str) -> str:
        return f"<{tag}{' class=n' if i in numbers else ''}>{text}</{tag}>"

    top = "".join(cell("th", i, escape(h)) for i, h in enumerate(head))
    body = "".join(
        "<tr>" + "".join(cell("td", i, c if c.startswith("<span") else escape(c)) for i, c in enumerate(r)) for r in rows
    )
    return f"<table><tr>{top}{body}</table>"


def _where(joint: Joint) -> str:
    return f"{joint.place}, towards {joint.towards}" if joint.towards else joint.place


def _first(derived: Derived, ready: Readiness) -> str:
    return _lost(ready) + _open(derived, ready)


def _lost(ready: Readiness) -> str:
    """What was made and is not on the drawing any more."""
    if not ready.lost:
        return ""
    rows = [[j.place, j.joint, j.by] for j in ready.lost]
    return f"<div class=first><h2>Made, and no longer on the drawing</h2>{_table(['where', 'joint', 'by'], rows)}</div>"


def _open(derived: Derived, ready: Readiness) -> str:
    if not ready.first:
        made, count = sum(s.state in MADE for s in ready.joints.values()), len(derived.assembly.joints)
        return f"<div class=first><h2>Nothing is left dry or unproved</h2><p>{made} of {count} joints are made.</p></div>"
    known = {j.id: j for j in derived.assembly.joints}
    rows = []
    for name in ready.first:
        state, joint = ready.joints[name], known[name]
        says = "DRY, not made" if state.state == "dry" else f"made, not proved ({state.state})"
        rows.append(
            [
                says if state.matches else "made, no longer matches the drawing",
                _where(joint),
                joint.method,
                f"{joint.a.what} into {joint.b.what}",
                state.by,
            ]
        )
    return f"<div class=first><h2>See to these {len(rows)} first</h2>{_table(['state', 'where', 'method', 'joint', 'by'], rows)}</div>"


def _parts(derived: Derived) -> str:
    rows = [["<span class=box></span>", str(r.count), r.unit, r.name, r.detail] for r in derived.bill]
    return "<h2>Parts</h2>" + _table(["", "count", "", "part", ""], rows, (1,))


def _cuts(plan: Plan, derived: Derived) -> str:
    rows = [
        [
            str(n),
            str(show(p.length, "cut", plan.units)),
            f"{series(p.series).short} {p.size}",
            p.a.name,
            p.a.takes,
            p.b.name,
            p.b.takes,
        ]
        for n, p in enumerate(derived.cuts.pieces, 1)
    ]
    head = ["piece", "length", "pipe", "from", "goes into", "to", "goes into"]
    return "<h2>Cuts, stop to stop</h2>" + _table(head, rows, (0, 1))


def _arcs(plan: Plan, derived: Derived) -> str:
    """The corners the pipe takes by itself, and how far the trench opens there."""
    rows = [
        [
            a.name,
            str(show(a.turn, "angle", plan.units)),
            *(str(show(x, "cut", plan.units)) for x in (a.radius, a.before, a.length, a.widening)),
        ]
        for a in derived.cuts.arcs
    ]
    head = ["corner", "turn", "radius", "begins before it", "along the arc", "trench wider inside"]
    return "<h2>Bends the pipe makes itself</h2>" + _table(head, rows, (1, 2, 3, 4, 5)) if rows else ""


def _sticks(plan: Plan, derived: Derived) -> str:
    """Each stick or coil with its marks from one end: take it to the saw, tape hooked once."""
    number = {p.id: n for n, p in enumerate(derived.cuts.pieces, 1)}
    rows = []
    for nest in derived.cuts.nests:
        word = "coil" if nest.coil else "stick"
        whole = [(f"{word} {n} of {len(nest.sticks)}", s.cuts, s.rest) for n, s in enumerate(nest.sticks, 1)]
        used = [(f"offcut of {show(o.length, 'cut', plan.units)}", o.cuts, o.rest) for o in nest.offcuts if o.cuts]
        for name, cuts, rest in used + whole:
            kerf = 0.0 if nest.coil else plan.conditions.kerf  # a coil is cut with shears
            marks = [
                f"whole, for piece {number[piece]}"
                if at >= nest.stock - 1e-6
                else f"{show(at, 'cut', plan.units)} ends piece {number[piece]}"
                for piece, at in saw_marks(cuts, kerf)
            ]
            rows.append([f"{series(nest.series).short} {nest.size}", name, "; ".join(marks), str(show(rest, "cut", plan.units))])
    head = ["pipe", "from", "mark from one end, blade beyond the mark", "left"]
    return "<h2>At the saw</h2>" + _table(head, rows, (3,))


def _sections(plan: Plan, derived: Derived, ready: Readiness) -> str:
    rows = []
    for s in derived.sections:
        state = ready.sections[s.id]
        tests = "; ".join(
            f"{'passed' if t.passed else 'FAILED'}, {t.by}" + (f", override: {t.override}" if t.override else "")
            for t in state.tests
        )
        rows.append(
            [
                "; ".join((s.name, *s.isolate)),
                f"{show(s.test, 'pressure', plan.units)}",
                "buried" if state.buried else "proved" if state.proved else state.pressurise.why,
                tests,
            ]
        )
    return "<h2>Sections and tests</h2>" + _table(["section", "test at", "stands", "tests"], rows, (1,))


def _joints(derived: Derived, ready: Readiness) -> str:
    known, tasks = {j.id: j for j in derived.assembly.joints}, {t.joint: t for t in derived.work}
    hands = len({g.hand for g in derived.glueups})
    rows, n = [], 0
    for group in derived.glueups:
        told = [f"person {group.hand}"] if hands > 1 else []
        told += [f"coat {group.ahead} at the most before pushing home, fewer in the sun"] if group.ahead > 0 else []
        rows.append(["", "", group.title, "", "; ".join(told), ""])
        for name in group.joints:
            n += 1
            joint, state = known[name], joint_state(ready.joints, name)
            method = f"{joint.method}, sets an angle" if tasks[name].angle else joint.method
            rows.append([str(n), state.state, _where(joint), method, f"{joint.a.what} into {joint.b.what}", state.by])
    return "<h2>Every joint, in working order</h2>" + _table(["", "state", "where", "method", "joint", "by"], rows, (0,))


def _cautions(derived: Derived, ready: Readiness) -> str:
    items = "".join(f"<p><b>{escape(c.title)}.</b> {escape(c.text)}</p>" for c in (*derived.cautions, *ready.cautions))
    return f"<h2>Cautions</h2>{items}"
