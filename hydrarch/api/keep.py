"""Keep: every export of a job, and what is read back: job files, price books, weather; nesting again."""

from __future__ import annotations

from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Annotated, cast

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from hydrarch.api.apart import answer, tell
from hydrarch.api.foreign import ForeignText, read_foreign
from hydrarch.api.jobs import JobView, bring_job, view
from hydrarch.api.photos import archived_photos
from hydrarch.api.problems import LARGEST_BODY, Fault, too_large
from hydrarch.api.service import JobThere, Service, ServiceIn
from hydrarch.api.shapes import written_as
from hydrarch.api.watering import watering_day
from hydrarch.core.base.errors import Unknown
from hydrarch.core.cutting.cuts import CutList, Nest, nest_longer
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.two_shops import TwoShops, two_shops
from hydrarch.devices.weather import Hour, SimulatedWeather, lowest, read_weather
from hydrarch.formats.archive import is_archive
from hydrarch.formats.exports import EXPORTS, Subject
from hydrarch.formats.pictures import read_picture
from hydrarch.formats.tables import PriceBook, read_prices
from hydrarch.store.errors import NotThere
from hydrarch.store.jobs import Job
from hydrarch.store.pictures import keep_picture, picture

__all__ = ["router", "subject_of"]

router = APIRouter(prefix="/api", tags=["keep"])
_NESTS = TypeAdapter(tuple[Nest, ...])


@router.get("/jobs/{job_id}/export/{name}", summary="A job in an open format")
def export_job(service: ServiceIn, job_id: str, name: str) -> Response:
    """The whole job ("job": a JSON file that imports to exactly the same; "archive": the same with its photos, as a
    zip), "parts", "prices" and "cuts" as CSV, "clocks" as iCalendar, "watering" as iCalendar and "schedule" as CSV, the
    "sheet" to print.
    """
    export = EXPORTS.get(name)
    if export is None:
        raise Unknown("export", name, EXPORTS)
    subject = subject_of(service, service.job(job_id))
    headers = {"Content-Disposition": f'attachment; filename="{job_id}{export.file}"'} if export.saved else {}
    written = export.write(subject)
    if isinstance(written, str) and export.media == "text/csv" and not written.isascii():
        written = f"\ufeff{written}"  # else spreadsheets take it for another set of letters
    return Response(written, media_type=export.media, headers=headers)


def subject_of(service: Service, found: Job) -> Subject:
    """A job with all that exports are written from."""
    return Subject(
        id=found.id,
        plan=found.plan,
        derived=service.derived(found),
        events=service.events(found.id),
        stands=service.stands(found),
        picture=_beneath(service, found.plan),
        schedule=lambda: watering_day(service, found),
        photos=lambda: archived_photos(service.store, found.id),
    )


def _beneath(service: Service, plan: Plan) -> bytes | None:
    """What is in the picture beneath a plan; None where there is none, or it was never kept here."""
    if plan.underlay is None:
        return None
    try:
        return picture(service.store, plan.underlay.picture)[1]
    except NotThere:
        return None


@dataclass(frozen=True, slots=True)
class PictureKept:
    """What a picture is kept under, its size in its own units, and the m of one of them where it says so, else 0; what
    of the file is not in it, in words; how many of its lines lie `far` off the rest, and make all else small.
    """

    picture: str
    media: str
    wide: float
    high: float
    metre: float
    left_out: str
    far: int


@router.post(
    "/pictures",
    status_code=201,
    summary="Keep a background picture or plan for a drawing",
    response_model=PictureKept,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def keep_a_picture(service: ServiceIn, request: Request, trim: bool = False) -> PictureKept:
    """PNG and SVG as they are, JPEG upright, TIFF, WebP and the first page of a PDF as a picture, DXF and GeoJSON as
    lines; with `trim`, without lines far off the rest. What is none of these is refused with the reason.
    """
    return await run_in_threadpool(_kept, service, await request.body(), trim)


def _kept(service: Service, body: bytes, trim: bool) -> PictureKept:
    found = read_foreign(read_picture, body, trim=trim)
    keep_picture(service.store, found.hash, found.media, found.body)
    return PictureKept(found.hash, found.media, found.wide, found.high, found.metre, found.left_out, found.far)


@router.get("/pictures/{name}", summary="A picture")
def one_picture(service: ServiceIn, name: str) -> Response:
    """As it was kept; it never changes, and no script in it runs."""
    media, body = picture(service.store, name)
    return Response(
        body,
        media_type=media,
        headers={
            "Cache-Control": "private, max-age=31536000, immutable",
            # opened by itself a picture runs nothing, and reaches nothing
            "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox",
        },
    )


@router.post(
    "/import",
    status_code=201,
    summary="Start a job from a file",
    response_model=written_as(JobView),
    openapi_extra={"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}},
)
async def import_job(service: ServiceIn, request: Request) -> Response:
    """A new job from an exported file or archive; a file that is not one is refused whole, with where it is wrong."""
    body = await request.body()
    if len(body) > LARGEST_BODY and not is_archive(body):
        raise Fault(too_large(LARGEST_BODY))
    return await run_in_threadpool(_imported, service, body)


def _imported(service: Service, body: bytes) -> Response:
    return view(service, bring_job(service, body), "survey", 201)


@router.post("/prices", summary="Read a price book")
def import_prices(book: ForeignText) -> PriceBook:
    """Prices by item, for a plan to keep, and their currency; a broken book is refused whole, with its line."""
    return read_foreign(read_prices, book.file)


@router.post("/jobs/{job_id}/prices/compare", summary="Compare another shop's price book")
def compare_prices(service: ServiceIn, job_id: str, book: ForeignText) -> TwoShops:
    """The list by the job's own prices and by another book's; nothing is kept. A broken book is refused whole."""
    found = service.job(job_id)
    other = read_foreign(read_prices, book.file)
    return two_shops(service.derived(found), other.prices, other.currency)


@router.get("/jobs/{job_id}/nests", summary="Nest again, with more time")
async def nest_again(service: ServiceIn, request: Request, job_id: str) -> tuple[Nest, ...]:
    """The sticks and coils again, with more cutting patterns tried than an edit has time for.

    Break the request off to stop it.
    """
    return cast(
        "tuple[Nest, ...]", await answer(request, nest_longer, *await run_in_threadpool(_pieces, service, job_id))
    )


@router.get(
    "/jobs/{job_id}/nests/live",
    summary="The same, saying how far it is",
    response_class=EventSourceResponse,
    dependencies=[JobThere],
)
async def nest_again_live(service: ServiceIn, job_id: str) -> AsyncIterator[ServerSentEvent]:
    """Server-sent events: "says" with how far it is, "done" with the nests, "fault" with a reason.

    Close it to stop the work.
    """
    async for told in tell(_NESTS, nest_longer, *await run_in_threadpool(_pieces, service, job_id)):
        yield told


def _pieces(service: Service, job_id: str) -> tuple[Plan, CutList]:
    found = service.job(job_id)
    return found.plan, service.derived(found).cuts


class WeatherIn(BaseModel):
    """A weather feed's CSV; empty for the simulated one. `hours` is how long the cure is calculated to take."""

    model_config = ConfigDict(extra="forbid", strict=True)
    csv: str = Field("", max_length=1_000_000)
    hours: Annotated[int, Field(ge=1, le=240)] = 24
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Expected:
    """What a cure must allow for: the lowest temperature (K) and the highest humidity (0 to 1), and the hours behind
    them.
    """

    temperature: float
    humidity: float
    hours: tuple[Hour, ...]


@router.post("/weather", summary="The weather for a cure time")
def expected_weather(service: ServiceIn, asked: WeatherIn) -> Expected:
    """The coldest and dampest of the hours to come, from a CSV or the simulated feed."""
    now = service.clock()
    hours = (
        read_foreign(read_weather, asked.csv)
        if asked.csv
        else SimulatedWeather(seed=asked.seed).hours(now, asked.hours)
    )
    temperature, humidity = lowest(hours)
    return Expected(temperature, humidity, tuple(hours))
