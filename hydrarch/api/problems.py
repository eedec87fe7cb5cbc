"""Every error as problem+json (RFC 9457), by one table."""

from __future__ import annotations

import json
import logging
import sqlite3
from collections.abc import Awaitable, Callable
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field, ValidationError
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from hydrarch.core.base.errors import AskedBack, HydrarchError, OutOfRange, Unknown
from hydrarch.core.commissioning.readiness import Gate
from hydrarch.core.plan.upgrades import NewerFormat, open_plan
from hydrarch.formats.explained import BadFile, explain, explain_items
from hydrarch.store.errors import Clash, NotThere, Reused, StoreError

__all__ = [
    "Fault",
    "LARGEST_BODY",
    "ProblemDocument",
    "install",
    "invalid",
    "problem",
    "respond",
    "shut_gate",
    "too_large",
]

_log = logging.getLogger("hydrarch")
LARGEST_BODY = 5_000_000
"""The largest body (bytes) of a request."""


class Spot(BaseModel):
    """Where something is wrong, and what."""

    where: str
    says: str


class ProblemDocument(BaseModel):
    """An RFC 9457 problem document; `mend` says what to do, `places` where. A clash carries both sides."""

    type: str = Field("about:blank", examples=["/problems/clash"])
    title: str
    status: int
    detail: str
    mend: str = ""
    places: list[Spot] = Field(default_factory=list)
    extra: dict[str, Any] = Field(default_factory=dict)


class Fault(Exception):
    """An error raised by a route: it becomes the problem document it carries."""

    def __init__(self, document: ProblemDocument) -> None:
        self.document = document
        super().__init__(document.detail)


def problem(
    kind: str, title: str, status: int, detail: str, mend: str, places: tuple[tuple[str, str], ...] = (), **extra: Any
) -> ProblemDocument:
    """A problem document of one of our own kinds."""
    listed = [Spot(where=w, says=s) for w, s in places]
    return ProblemDocument(
        type=f"/problems/{kind}", title=title, status=status, detail=detail, mend=mend, places=listed, extra=extra
    )


def shut_gate(step: str, what: str, gate: Gate) -> Fault:
    """A gate that is shut: what not to do yet and why, and that a reason opens it all the same."""
    return Fault(
        problem(
            "gate",
            "Not ready",
            409,
            f"Do not {step} {what} yet: {gate.why}.",
            "Wait, or give a reason to go on all the same; it is kept.",
            from_time=gate.from_time,
        )
    )


def too_large(most: int) -> ProblemDocument:
    """A body of more than `most` bytes."""
    return problem(
        "too-large",
        "Too large",
        413,
        f"That is more than {most // 1_000_000} MB, which no job of this kind needs.",
        "Check that you chose the right file; nothing was saved.",
    )


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}."


def _clash(error: Clash) -> ProblemDocument:
    theirs = open_plan(json.loads(error.plan))[0].model_dump(mode="json")
    return problem(
        "clash",
        "Someone saved before you",
        409,
        str(error),
        "Look at both; keep yours on top of the newest, or take theirs.",
        revision=error.newest,
        theirs=theirs,
    )


def _invalid(error: RequestValidationError) -> ProblemDocument:
    if any(
        e["type"] == "json_invalid" for e in error.errors()
    ):  # cut or garbled on its way: nothing is known of what was meant
        return problem(
            "unreadable",
            "Could not be read",
            400,
            "What was sent is not whole JSON.",
            "Send it again; nothing was saved.",
        )
    return invalid(explain_items(error.errors()))


def invalid(places: tuple[tuple[str, str], ...]) -> ProblemDocument:
    """What does not hold together, with each place and what is wrong there."""
    first = f"{places[0][0]} {places[0][1]}." if places else "The request is not valid."
    return problem("invalid", "Not accepted", 422, first, "Correct what is named; nothing was saved.", places)


_TABLE: dict[type[Exception], Callable[[Any], ProblemDocument]] = {
    Fault: lambda e: e.document,
    Clash: _clash,
    Reused: lambda e: problem(
        "reused",
        "Already used",
        409,
        f"{e}.",
        "Reload the page, so that what is drawn gets an id of its own; nothing was saved.",
        tuple((i, "was something else in this job") for i in e.ids[:20]),
    ),
    NotThere: lambda e: problem("not-there", "Not there", 404, f"{e}.", "Go back to the list of jobs."),
    BadFile: lambda e: problem(
        "bad-file",
        "Not a file of ours",
        422,
        _sentence(e.says),
        "Correct it there, or choose a file that Hydrarch exported.",
        e.places,
    ),
    Unknown: lambda e: problem("unknown", "Unknown", 404, f"{e}.", "Use one of the names the message gives."),
    NewerFormat: lambda e: problem(
        "newer", "Made by a newer version", 409, _sentence(str(e)), "Bring Hydrarch up to date; nothing was changed."
    ),
    StoreError: lambda e: problem(
        "store", "Not kept", 503, _sentence(str(e)), "Look at the disk, then try again; nothing was half kept."
    ),
    sqlite3.Error: lambda e: problem(
        "store", "Not kept", 503, f"The database said: {e}.", "Look at the disk, then try again; nothing was half kept."
    ),
    RecursionError: lambda e: problem(
        "invalid", "Not accepted", 422, "That is nested too deep.", "Send what the page sends; nothing was saved."
    ),
    UnicodeError: lambda e: problem(
        "invalid", "Not accepted", 422, "A text holds half of a letter.", "Type it again; nothing was saved."
    ),
    AskedBack: lambda e: problem("refused", "Say a little more", 422, f"{e}.", "Ask again with that in it."),
    HydrarchError: lambda e: problem("refused", "Refused", 422, f"{e}.", "Change the value the message names."),
    RequestValidationError: _invalid,
    ValidationError: lambda e: invalid(explain(e)),
    ClientDisconnect: lambda e: problem(
        "half-sent",
        "Half sent",
        408,
        "The rest of what was being sent did not come.",
        "Send it again; nothing of it was kept.",
    ),
    HTTPException: lambda e: (
        too_large(LARGEST_BODY)
        if e.status_code == 413
        else problem("http", str(e.detail), e.status_code, f"{e.detail}.", "Check the address.")
    ),
}


def respond(document: ProblemDocument) -> JSONResponse:
    """The document as a response."""
    return JSONResponse(document.model_dump(mode="json"), document.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Answer every error of the table, and any other as a plain 500, with a problem document."""
    for kind, make in _TABLE.items():
        app.add_exception_handler(kind, _handler(make))

    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.exception("unexpected error at %s", request.url.path, exc_info=error)
        return respond(
            problem(
                "fault",
                "Our fault",
                500,
                "Something failed that should not.",
                "Your job is safe as last saved. Try again, and report it.",
            )
        )

    app.add_exception_handler(Exception, unexpected)


def _handler(make: Callable[[Any], ProblemDocument]) -> Callable[[Request, Exception], Awaitable[JSONResponse]]:
    async def handle(request: Request, error: Exception) -> JSONResponse:
        if isinstance(error, OutOfRange) and (told := error.told.get(request.headers.get("X-Units", ""))):
            error = HydrarchError(told)
        return respond(make(error))

    return handle
