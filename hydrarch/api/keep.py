"""Keep: the job as a file, parts and cuts as CSV, and the sheet to print."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, cast

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import HTMLResponse, StreamingResponse
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from hydrarch.api.apart import answer, tell
from hydrarch.api.jobs import JobView, new_id, view
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.cutting.cuts import CutList, Nest, nest_longer
from hydrarch.core.plan import Plan
from hydrarch.devices.weather import Hour, SimulatedWeather, lowest, read_weather
from hydrarch.formats.calendar import Clock, calendar_text, clocks
from hydrarch.formats.jobfile import read_job_file, write_job_file
from hydrarch.formats.sheet import sheet_html
from hydrarch.formats.tables import cuts_csv, parts_csv, prices_csv, read_prices
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import add_job

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["keep"])
_NESTS = TypeAdapter(tuple[Nest, ...])


def _file(text: str, name: str, media: str) -> Response:
    return Response(text, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/jobs/{job_id}/export", summary="The whole job as one file")
def export_job(service: ServiceIn, job_id: str) -> Response:
    """A JSON file that imports to exactly the same job."""
    found = service.job(job_id)
    return _file(write_job_file(found.plan, events(service.store, job_id)), f"{job_id}.hydrarch.json", "application/json")


@router.post(
    "/import", status_code=201, summary="Start a job from a file", response_model=JobView,
    openapi_extra={"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}},
)  # fmt: skip
async def import_job(service: ServiceIn, request: Request) -> Response:
    """A new job from an exported file; a file that is not one is refused whole, with where it is wrong."""
    file = read_job_file(await request.body())
    found = add_job(service.store, new_id(service, file.plan.name), file.plan)
    add_events(service.store, found.id, file.events)
    return view(service, found, 201)


@router.get("/jobs/{job_id}/parts.csv", summary="Parts list")
def export_parts(service: ServiceIn, job_id: str) -> Response:
    """The bill of materials as CSV."""
    return _file(parts_csv(service.derived(service.job(job_id)).bill), f"{job_id}-parts.csv", "text/csv")


@router.get("/jobs/{job_id}/prices.csv", summary="Price book")
def export_prices(service: ServiceIn, job_id: str) -> Response:
    """Every part and pipe of the job with its price, to be filled in by the shop and read again."""
    return _file(prices_csv(service.derived(service.job(job_id)).bill), f"{job_id}-prices.csv", "text/csv")


class PriceBook(BaseModel):
    """A price book as CSV text."""

    model_config = ConfigDict(extra="forbid", strict=True)
    text: str = Field(max_length=1_000_000)


@router.post("/prices", summary="Read a price book")
def import_prices(book: PriceBook) -> dict[str, float]:
    """Prices by item, for a plan to keep; a broken book is refused whole, with its line."""
    return read_prices(book.text)


@router.get("/jobs/{job_id}/nests", summary="Nest again, with more time")
async def nest_again(service: ServiceIn, request: Request, job_id: str) -> tuple[Nest, ...]:
    """The sticks and coils again, with more cutting patterns tried than an edit has time for. Break the request off to stop it."""
    return cast("tuple[Nest, ...]", await answer(request, nest_longer, *await run_in_threadpool(_pieces, service, job_id)))


@router.get("/jobs/{job_id}/nests/live", summary="The same, saying how far it is")
async def nest_again_live(service: ServiceIn, job_id: str) -> StreamingResponse:
    """Server-sent events: "says" with how far it is, "done" with the nests, "fault" with a reason. Close it to stop the work."""
    return tell(_NESTS, nest_longer, *await run_in_threadpool(_pieces, service, job_id))


def _pieces(service: Service, job_id: str) -> tuple[Plan, CutList]:
    found = service.job(job_id)
    return found.plan, service.derived(found).cuts


@router.get("/jobs/{job_id}/clocks.ics", summary="The clocks as a calendar")
def export_clocks(service: ServiceIn, job_id: str) -> Response:
    """Every wait that still runs, as an iCalendar file with alarms."""
    found = service.job(job_id)
    derived, stands = service.derived(found), service.stands(found)
    waits = clocks(derived.sections, stands, derived.assembly.joints)
    return _file(calendar_text(found.plan, job_id, waits, stands.now), f"{job_id}-clocks.ics", "text/calendar")


@router.get("/jobs/{job_id}/clocks", summary="The clocks that still run")
def running_clocks(service: ServiceIn, job_id: str) -> tuple[Clock, ...]:
    """Joints that set and sections that cure, the next first."""
    found = service.job(job_id)
    derived = service.derived(found)
    return clocks(derived.sections, service.stands(found), derived.assembly.joints)


class WeatherIn(BaseModel):
    """A weather feed's CSV; empty for the simulated one. `hours` is how long the cure is reckoned to take."""

    model_config = ConfigDict(extra="forbid", strict=True)
    csv: str = Field("", max_length=1_000_000)
    hours: Annotated[int, Field(ge=1, le=240)] = 24
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Expected:
    """What a cure must reckon with: the lowest temperature (K) and the highest humidity (0 to 1), and the hours behind them."""

    temperature: float
    humidity: float
    hours: tuple[Hour, ...]


@router.post("/weather", summary="The weather a cure must reckon with")
def expected_weather(service: ServiceIn, asked: WeatherIn) -> Expected:
    """The coldest and dampest of the hours to come, from a CSV or the simulated feed."""
    now = service.clock()
    hours = read_weather(asked.csv) if asked.csv else SimulatedWeather(seed=asked.seed).hours(now, asked.hours)
    temperature, humidity = lowest(hours)
    return Expected(temperature, humidity, tuple(hours))


@router.get("/jobs/{job_id}/cuts.csv", summary="Cut list")
def export_cuts(service: ServiceIn, job_id: str) -> Response:
    """The cut list as CSV."""
    found = service.job(job_id)
    return _file(cuts_csv(found.plan, service.derived(found).cuts), f"{job_id}-cuts.csv", "text/csv")


@router.get("/jobs/{job_id}/sheet", summary="The sheet to print", response_class=HTMLResponse)
def print_sheet(service: ServiceIn, job_id: str) -> HTMLResponse:
    """One page of HTML: first what is dry or unproved."""
    found = service.job(job_id)
    return HTMLResponse(sheet_html(found.plan, service.derived(found), service.stands(found)))
