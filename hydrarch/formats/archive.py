"""A job with its photos as one file: a zip of the job's JSON, a list of the photos, each photo, and in `readable/` what
a person reads with no program of ours.

Nothing in it is unpacked to a disk. One that was unpacked and packed again, by a desktop that puts a folder about it
and files of its own beside, is taken all the same; what is in `readable/` is written and never read.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from hydrarch.core.record.events import Moment, Text
from hydrarch.formats.explained import BadFile, explain
from hydrarch.formats.photos import Developed, develop

__all__ = ["LARGEST_ARCHIVE", "ArchivedPhoto", "is_archive", "read_archive", "write_archive"]

LARGEST_JOB = 5_000_000  # as large as a job file by itself may be
LARGEST_ARCHIVE = 200_000_000
"""Bytes of an archive at the most, packed or not."""
_JOB, _LIST, _PHOTOS = "job.hydrarch.json", "photos.json", "photos/"
_READABLE = "readable/"
_DESKTOP = re.compile(r"(?:^|/)(?:__MACOSX/|\.DS_Store$|\._|Thumbs\.db$|desktop\.ini$)", re.IGNORECASE)
"""What desktops put into a zip."""
_MOST_FILES = 5_000
_WHEN = (2000, 1, 1, 0, 0, 0)  # the same job gives the same file, byte for byte


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    id: Annotated[str, Field(pattern=r"^[0-9a-fA-F-]{32,36}$")]
    about: Annotated[Text, Field(max_length=160)]
    by: Annotated[Text, Field(min_length=1, max_length=60)]
    at: Moment
    note: Annotated[Text, Field(max_length=500)] = ""
    north: Annotated[float, Field(ge=-90, le=90)] | None = None
    east: Annotated[float, Field(ge=-180, le=180)] | None = None


_ROWS = TypeAdapter(list[_Row])


@dataclass(frozen=True, slots=True)
class ArchivedPhoto:
    """A photo on its way in or out: what is kept of it, and its JPEG."""

    id: str
    about: str
    by: str
    at: float
    note: str
    north: float | None
    east: float | None
    wide: int
    high: int
    body: bytes


def is_archive(body: bytes) -> bool:
    """Whether a file is a zip, by what is in it."""
    return body[:4] == b"PK\x03\x04"


def write_archive(
    job: str, photos: Iterable[ArchivedPhoto], readable: Mapping[str, str | bytes] | None = None
) -> bytes:
    """The job's file (JSON text) and its photos as one zip, with files for people by their names."""
    out, rows = io.BytesIO(), []
    with zipfile.ZipFile(out, "w") as whole:
        whole.writestr(zipfile.ZipInfo(_JOB, _WHEN), job, zipfile.ZIP_DEFLATED)
        for p in photos:
            row = _Row(id=p.id, about=p.about, by=p.by, at=p.at, note=p.note, north=p.north, east=p.east)
            rows.append(row.model_dump(mode="json", exclude_none=True))
            whole.writestr(zipfile.ZipInfo(f"{_PHOTOS}{p.id}.jpg", _WHEN), p.body)
        whole.writestr(
            zipfile.ZipInfo(_LIST, _WHEN), json.dumps(rows, indent=2, ensure_ascii=False) + "\n", zipfile.ZIP_DEFLATED
        )
        for name, body in (readable or {}).items():
            whole.writestr(zipfile.ZipInfo(f"{_READABLE}{name}", _WHEN), body, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def read_archive(body: bytes) -> tuple[bytes, tuple[ArchivedPhoto, ...]]:
    """The job's file and its photos, read from memory: no name in it is a path to anywhere, and no file is larger than
    it says.

    Raises `BadFile` with where it is wrong.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(body)) as whole:
            files = whole.infolist()
            if len(files) > _MOST_FILES or sum(f.file_size for f in files) > LARGEST_ARCHIVE:
                raise BadFile(
                    f"this archive would swell to more than {LARGEST_ARCHIVE // 1_000_000} MB, or {_MOST_FILES} files"
                )
            inside = {f.filename: f.filename for f in files if not f.is_dir() and not _DESKTOP.search(f.filename)}
            if _JOB not in inside:  # a desktop puts the folder about it that it was unpacked to
                about = {name.partition("/")[0] for name in inside}
                top = f"{next(iter(about))}/" if len(about) == 1 else ""
                inside = {name.removeprefix(top): name for name in inside}
            if _JOB not in inside:
                raise BadFile("this is a zip, but not of a Hydrarch job", ((_JOB, "is missing"),))
            names = {name for name in inside if not name.startswith(_READABLE)}
            if whole.getinfo(inside[_JOB]).file_size > LARGEST_JOB:
                raise BadFile(
                    f"the job in this archive is larger than {LARGEST_JOB // 1_000_000} MB", ((_JOB, "is too large"),)
                )
            job = _file(whole, inside[_JOB])
            rows = _rows(_file(whole, inside[_LIST])) if _LIST in names else []
            known = {_JOB, _LIST, *(f"{_PHOTOS}{r.id}.jpg" for r in rows)}
            if names - known:
                raise BadFile("this archive is not valid", ((min(names - known), "is not known here; take it out"),))
            return job, tuple(_photo(whole, r, inside) for r in rows)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise BadFile(f"this archive is broken ({error})") from error


def _file(whole: zipfile.ZipFile, name: str) -> bytes:
    told = whole.getinfo(name).file_size
    with whole.open(name) as file:
        found = file.read(told + 1)
    if len(found) > told:
        raise BadFile("this archive is not valid", ((name, "is longer than it says"),))
    return found


def _rows(text: bytes) -> list[_Row]:
    try:
        rows = _ROWS.validate_json(text)
    except ValidationError as error:
        raise BadFile("this archive is not valid", explain(error, _LIST)) from error
    if len({r.id for r in rows}) != len(rows):
        raise BadFile("this archive is not valid", ((_LIST, "two photos share an id"),))
    return rows


def _photo(whole: zipfile.ZipFile, row: _Row, inside: Mapping[str, str]) -> ArchivedPhoto:
    name = f"{_PHOTOS}{row.id}.jpg"
    if name not in inside:
        raise BadFile("this archive is not valid", ((name, "is missing, and the list names it"),))
    body = _file(whole, inside[name])
    found = develop(body)
    kept = body if _as_kept(body, found) else found.body
    return ArchivedPhoto(
        id=row.id,
        about=row.about,
        by=row.by,
        at=row.at,
        note=row.note,
        north=row.north,
        east=row.east,
        wide=found.wide,
        high=found.high,
        body=kept,
    )


def _as_kept(body: bytes, found: Developed) -> bool:
    """Whether a file is one that was developed here: then it comes in as it went out.

    Anything with more in it is developed anew.
    """
    return body[:4] == b"\xff\xd8\xff\xe0" and b"Exif\x00" not in body[:65536] and len(body) <= 3 * len(found.body)
