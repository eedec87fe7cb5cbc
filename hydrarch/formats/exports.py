"""Every export of a job, one registry: its file's name, its media type, and what writes it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.nozzles import generic_nozzles
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.coverage.schedule import Schedule
from hydrarch.core.derivation.chain import Derivation, made_of
from hydrarch.core.plan.crew_parts import rows_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.log import Log
from hydrarch.core.report.as_laid import as_laid
from hydrarch.core.report.reminders import reminders
from hydrarch.formats.archive import ArchivedPhoto, write_archive
from hydrarch.formats.calendar import calendar_text, clocks, reminders_text
from hydrarch.formats.geopackage import line_geopackage
from hydrarch.formats.jobfile import write_job_file
from hydrarch.formats.maps import drawing_svg, line_dxf, line_geojson, line_kml
from hydrarch.formats.schema import job_schema
from hydrarch.formats.sheet import sheet_html
from hydrarch.formats.tables import (
    as_laid_csv,
    as_laid_table,
    cuts_csv,
    cuts_table,
    nozzles_csv,
    parts_csv,
    parts_table,
    parts_text,
    prices_csv,
    prices_table,
    schedule_csv,
    schedule_table,
    workbook_of,
)
from hydrarch.formats.watering import schedule_calendar

__all__ = ["EXPORTS", "Export", "Subject"]


@dataclass(frozen=True, slots=True)
class Subject:
    """What is exported: a job's plan, what follows from it, its events, where it stands, and the picture beneath it.

    `schedule` works out when its zones are watered, `photos` reads the photos.
    """

    id: str
    plan: Plan
    derived: Derivation
    events: Iterable[Event]
    stands: Readiness
    picture: bytes | None = None
    schedule: Callable[[], Schedule] | None = None
    photos: Callable[[], Iterable[ArchivedPhoto]] = tuple


@dataclass(frozen=True, slots=True)
class Export:
    """One export: its `title` as people read it, `file` the end of its name, `saved` whether a browser keeps it as a
    file or shows it; `beside` names the place in the page that offers it, "" for the list of them all; `on_earth`
    whether it needs to know where on earth the job lies.
    """

    name: str
    title: str
    file: str
    media: str
    write: Callable[[Subject], str | bytes]
    saved: bool = True
    beside: str = ""
    on_earth: bool = False


def _printed(s: Subject, at: float) -> bytes:
    from hydrarch.formats.printed import as_laid_pdf  # loaded when first used: a server starts without it

    return as_laid_pdf(s.plan, s.derived, as_laid(s.plan, s.derived, s.stands), at)


def _clocks(s: Subject) -> str:
    return calendar_text(s.plan, s.id, clocks(s.derived.sections, s.stands, s.derived.assembly.joints), s.stands.now)


def _job(s: Subject) -> str:
    """The job with the rows of the crew's own that it names or that its parts are."""
    return write_job_file(s.plan, s.events, rows_of(s.plan, made_of(s.derived)), s.picture)


def _schedule(s: Subject) -> Schedule:
    if s.schedule is None:
        raise HydrarchError("when the zones are watered was not worked out")
    return s.schedule()


_README = """{name}

A job as it was drawn, made and tested, and what a person reads of it with no program of ours.

job.hydrarch.json    the whole job: its drawing and all that was recorded, as plain JSON. Lengths and levels are
                     in metres, pressures in pascals, flows in cubic metres a second, temperatures in kelvins,
                     times in seconds since 1970 (UTC).
photos.json, photos  each photo, with what it is of, who took it and when.
readable             as-laid.pdf: plan, long sections and what was laid, to look at and print
                     as-laid.csv: each hidden joint, where it is and how deep
                     parts.csv and cuts.csv: what was bought and cut
                     drawing.svg: the drawing by itself
                     as-laid.geojson: the line for maps
                     job.schema.json: what each part of the job's file is, and in which unit

It may be unpacked, packed again and read in, with or without the folder readable.
"""


def _tables(s: Subject) -> bytes:
    """All tables of a job that a shop, a saw or an office reads, a sheet each."""
    found = [
        parts_table(s.derived.bill),
        cuts_table(s.plan, s.derived.cuts),
        prices_table(s.derived.bill, s.plan.currency),
        as_laid_table(as_laid(s.plan, s.derived, s.stands)),
    ]
    if s.schedule is not None and s.plan.zones:
        found.append(schedule_table(s.schedule()))
    return workbook_of(found, s.stands.now)


def _archive(s: Subject) -> bytes:
    """The job, its photos, and what people read."""
    laid = as_laid(s.plan, s.derived, s.stands)
    last = max((e.at for e in s.events), default=0.0)
    return write_archive(
        _job(s),
        s.photos(),
        {
            "README.txt": _README.format(name=s.plan.name),
            "as-laid.pdf": _printed(s, last),
            "as-laid.csv": as_laid_csv(laid),
            "parts.csv": parts_csv(s.derived.bill),
            "cuts.csv": cuts_csv(s.plan, s.derived.cuts),
            "drawing.svg": drawing_svg(s.plan, s.derived, last),
            "job.schema.json": job_schema(),
            "as-laid.geojson": line_geojson(s.plan, s.derived, laid),
        },
    )


def _model(subject: Subject) -> bytes:
    from hydrarch.core.model.scene import build_model
    from hydrarch.formats.gltf import model_glb

    return model_glb(build_model(subject.derived), {j: state.state for j, state in subject.stands.joints.items()})


EXPORTS: dict[str, Export] = {
    e.name: e
    for e in (
        Export("job", "Whole job, JSON", ".hydrarch.json", "application/json", _job),
        Export(
            "archive",
            "Whole job with photos, zip",
            ".hydrarch.zip",
            "application/zip",
            _archive,
        ),
        Export("parts", "Parts, CSV", "-parts.csv", "text/csv", lambda s: parts_csv(s.derived.bill)),
        Export(
            "list",
            "Parts as a message, text",
            "-parts.txt",
            "text/plain",
            lambda s: parts_text(s.plan, s.derived.bill, sum(p.severity == "stop" for p in s.derived.problems("cut"))),
            False,
        ),
        Export(
            "prices",
            "Price book, CSV",
            "-prices.csv",
            "text/csv",
            lambda s: prices_csv(s.derived.bill, s.plan.currency),
            beside="cut",
        ),
        Export(
            "tables",
            "Parts, cuts, prices and as laid, XLSX",
            "-tables.xlsx",
            "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
            _tables,
        ),
        Export("cuts", "Cuts, CSV", "-cuts.csv", "text/csv", lambda s: cuts_csv(s.plan, s.derived.cuts)),
        Export(
            "as-laid",
            "As laid, CSV",
            "-as-laid.csv",
            "text/csv",
            lambda s: as_laid_csv(as_laid(s.plan, s.derived, s.stands)),
        ),
        Export(
            "geojson",
            "As laid, GeoJSON",
            ".geojson",
            "application/geo+json",
            lambda s: line_geojson(s.plan, s.derived, as_laid(s.plan, s.derived, s.stands)),
        ),
        Export(
            "geopackage",
            "As laid, GeoPackage",
            ".gpkg",
            "application/geopackage+sqlite3",
            lambda s: line_geopackage(s.plan, s.derived, as_laid(s.plan, s.derived, s.stands), s.stands.now),
        ),
        Export(
            "kml",
            "As laid, KML for a phone's map",
            ".kml",
            "application/xml",
            lambda s: line_kml(s.plan, s.derived, as_laid(s.plan, s.derived, s.stands)),
            on_earth=True,
        ),
        Export(
            "dxf",
            "As laid, DXF",
            ".dxf",
            "image/vnd.dxf",
            lambda s: line_dxf(s.plan, s.derived, as_laid(s.plan, s.derived, s.stands)),
        ),
        Export(
            "model",
            "Model, glTF",
            ".glb",
            "model/gltf-binary",
            _model,
        ),
        Export("svg", "Drawing, SVG", ".svg", "image/svg+xml", lambda s: drawing_svg(s.plan, s.derived, s.stands.now)),
        Export(
            "pdf",
            "As laid, PDF",
            "-as-laid.pdf",
            "application/pdf",
            lambda s: _printed(s, s.stands.now),
        ),
        Export("clocks", "Cure timers, calendar", "-clocks.ics", "text/calendar", _clocks, beside="test"),
        Export(
            "reminders",
            "Reminders, calendar",
            "-reminders.ics",
            "text/calendar",
            lambda s: reminders_text(s.plan, s.id, reminders(s.plan, Log(s.events), s.stands.now), s.stands.now),
            beside="reminders",
        ),
        Export(
            "nozzles",
            "Nozzle tables, CSV",
            "-nozzles.csv",
            "text/csv",
            lambda s: nozzles_csv(s.plan.nozzles or tuple(generic_nozzles().values())),
            beside="size",
        ),
        Export(
            "watering",
            "Watering, calendar",
            "-watering.ics",
            "text/calendar",
            lambda s: schedule_calendar(s.plan, s.id, _schedule(s), s.stands.now),
            beside="size",
        ),
        Export(
            "schedule",
            "Watering, CSV",
            "-watering.csv",
            "text/csv",
            lambda s: schedule_csv(_schedule(s)),
            beside="size",
        ),
        Export(
            "sheet",
            "Sheet to print",
            "-sheet.html",
            "text/html",
            lambda s: sheet_html(s.plan, s.derived, s.stands),
            False,
        ),
    )
}
"""Every export by its name."""
