"""The crew: who is of it, who is where just now, and the devices that were let in."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import TYPE_CHECKING, Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.problems import Fault, problem
from hydrarch.api.service import By, ServiceIn
from hydrarch.api.sessions import SESSION
from hydrarch.api.whereabouts import Here
from hydrarch.core.base.problems import Stage
from hydrarch.core.record.events import Text
from hydrarch.store.audit import add_audit
from hydrarch.store.crew import Member, add_member, members

if TYPE_CHECKING:
    from hydrarch.api.guard import Guard

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["crew"])

Name = Annotated[Text, Field(min_length=1, max_length=60)]


@dataclass(frozen=True, slots=True)
class Crew:
    """Who is of the crew; `you` is who this device was let in as, "" where that is not said; `shared` is whether others
    can come in, `trust` whether there is a page that says how a phone comes to trust this server; `owner`
    whether this device may do what is the owner's.
    """

    members: tuple[Member, ...]
    you: str
    shared: bool
    trust: bool
    owner: bool


class Named(BaseModel):
    """One of the crew by name."""

    model_config = ConfigDict(extra="forbid", strict=True, str_strip_whitespace=True)
    name: Name


class Passphrase(BaseModel):
    """The crew's passphrase, and who comes with it ("": not said)."""

    passphrase: str = Field(max_length=200)
    name: Annotated[Text, Field(max_length=60)] = ""


class HereIn(BaseModel):
    """Where a page is: the stage and what is chosen there; `gone` when it is closed."""

    model_config = ConfigDict(extra="forbid", strict=True)
    name: Name
    stage: Stage
    at: Annotated[Text, Field(max_length=160)] = ""
    gone: bool = False


def _guard(request: Request) -> Guard:
    guard: Guard = request.app.state.guard
    return guard


def _crew(service: ServiceIn, request: Request) -> Crew:
    guard = _guard(request)
    mine = guard.session_of(request.headers)
    return Crew(
        members(service.store),
        mine.member if mine else "",
        guard.settings.passphrase is not None,
        guard.settings.trust is not None,
        guard.owns(request.headers),
    )


@router.get("/crew", summary="Who is of the crew")
def crew(service: ServiceIn, request: Request) -> Crew:
    """Everybody by name, letter and colour."""
    return _crew(service, request)


@router.post("/crew", summary="Somebody more")
def add_to_crew(service: ServiceIn, request: Request, who: Named) -> Crew:
    """Adds a name to the crew; one that is there already, however it is written, stays as it is."""
    add_member(service.store, who.name, service.clock())
    return _crew(service, request)


@router.put("/jobs/{job_id}/here", status_code=204, summary="Say where you are")
def say_where(service: ServiceIn, job_id: str, here: HereIn, by: By = "") -> Response:
    """Tells the others which stage and what of it this page has open."""
    service.job(job_id)
    if not by:
        raise Fault(
            problem("unnamed", "Which page?", 422, "A page that says where it is names itself.", "Send X-Page.")
        )
    told = (
        service.whereabouts.leave(by)
        if here.gone
        else service.whereabouts.put(job_id, Here(by, here.name, here.stage, here.at))
    )
    if told:
        service.tell(job_id, "here", by)
    return Response(status_code=204)


@router.get("/jobs/{job_id}/here", summary="Who is at a job")
def who_is_here(service: ServiceIn, job_id: str) -> tuple[Here, ...]:
    """Everybody who has the job open now, and where in it."""
    service.job(job_id)
    return service.whereabouts.at(job_id)


@router.post("/session", status_code=204, summary="Join a shared server")
def join(service: ServiceIn, request: Request, given: Passphrase) -> Response:
    """Opens a session for the right passphrase; who comes with a name is of the crew from then on."""
    guard = _guard(request)
    client = request.client.host if request.client else ""
    wait = guard.waits(client)
    if wait > 0:
        raise Fault(
            problem(
                "guesses",
                "Too many guesses",
                429,
                f"Too many wrong guesses: in {ceil(wait)} s the passphrase may be tried again, the right one too.",
                "Wait so long, and ask whoever started the server for it.",
            )
        )
    role = guard.role(client, given.passphrase)
    if role is None:
        add_audit(service.store, service.clock(), given.name.strip(), "refused", f"a wrong passphrase from {client}")
        raise Fault(
            problem(
                "passphrase",
                "Not that one",
                401,
                "That is not the crew's passphrase.",
                "Ask whoever started the server.",
            )
        )
    name = given.name.strip()
    if name:
        name = add_member(service.store, name, service.clock()).name
    device = _device(request.headers.get("user-agent", ""))
    token = guard.sessions.open(name, device, role == "owner")
    add_audit(service.store, service.clock(), name, "joined", f"{device}{', as the owner' if role == 'owner' else ''}")
    response = Response(status_code=204)
    response.set_cookie(
        "hydrarch", token, httponly=True, samesite="strict", max_age=int(SESSION), secure=request.url.scheme == "https"
    )
    return response


def _device(agent: str) -> str:
    """A device in a word: no more than is needed to tell a lost phone from the van's own screen."""
    return "phone or tablet" if any(w in agent for w in ("Mobile", "Tablet")) else "computer"


@dataclass(frozen=True, slots=True)
class Let:
    """A device that was let in: who, what it is in a word, since when, when it last asked anything, until when (s since
    1970).
    """

    id: str
    member: str
    device: str
    opened: float
    seen: float
    ends: float
    mine: bool


@router.get("/sessions", summary="The devices that were let in")
def let_in(request: Request) -> tuple[Let, ...]:
    """All sessions of a shared server that have not ended."""
    guard = _guard(request)
    mine = guard.session_of(request.headers)
    return tuple(
        Let(
            id=s.id,
            member=s.member,
            device=s.device,
            opened=s.opened,
            seen=s.seen,
            ends=s.ends,
            mine=mine is not None and s.id == mine.id,
        )
        for s in guard.sessions.all()
    )


@router.delete("/sessions/{name}", status_code=204, summary="End a session")
def end(service: ServiceIn, request: Request, name: str) -> Response:
    """The device is not let in any more, from now on, until it gives the passphrase again. Those of others the owner
    ends.
    """
    guard = _guard(request)
    mine = guard.session_of(request.headers)
    gone = next((s for s in guard.sessions.all() if s.id == name), None)
    if (mine is None or mine.id != name) and not guard.owns(request.headers):
        raise Fault(
            problem(
                "owner",
                "The owner's to do",
                403,
                "On this server the owner ends the sessions of others.",
                "Ask whoever joined with the owner's passphrase.",
            )
        )
    if gone is not None:
        about = f"{gone.member or 'nobody said who'}, {gone.device}"
        add_audit(service.store, service.clock(), mine.member if mine else "", "ended", about)
    if not _guard(request).sessions.end(name):
        raise Fault(
            problem("not-there", "Not there", 404, "That session has ended already.", "Look at the list again.")
        )
    return Response(status_code=204)
