"""The application: routers, errors, the built front end, and the guard around them."""

from __future__ import annotations

import gc
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Response
from fastapi.responses import FileResponse, HTMLResponse
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send

from hydrarch import __version__
from hydrarch.api import (
    answers,
    bench,
    book,
    circulation,
    copies,
    crew,
    deleted,
    fault,
    groups,
    jobs,
    keep,
    kept,
    live,
    measures,
    mends,
    photos,
    practice,
    records,
    reference,
    shop,
    standing,
    watering,
    zones,
)
from hydrarch.api.guard import Guard, Settings
from hydrarch.api.problems import LARGEST_BODY, Fault, ProblemDocument, install, problem
from hydrarch.api.service import Service
from hydrarch.api.sessions import Sessions
from hydrarch.core.record.events import said_schema
from hydrarch.formats.archive import LARGEST_ARCHIVE
from hydrarch.formats.pictures import LARGEST_FILE
from hydrarch.formats.trusting import crew_certificate, trust_page
from hydrarch.store.database import Store

__all__ = ["create_app", "hold_catalogue", "openapi"]

_ERRORS: dict[int | str, dict[str, object]] = {
    code: {"model": ProblemDocument, "description": says, "content": {"application/problem+json": {}}}
    for code, says in (
        (404, "Not there"),
        (409, "A clash or a shut gate"),
        (413, "Too large"),
        (422, "Not accepted, with where and why"),
    )
}


def _api() -> FastAPI:
    app = FastAPI(
        title="Hydrarch",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    for module in (
        jobs,
        answers,
        mends,
        records,
        standing,
        zones,
        book,
        keep,
        fault,
        kept,
        live,
        photos,
        practice,
        shop,
        reference,
        measures,
        groups,
        watering,
        circulation,
        copies,
        crew,
        deleted,
        bench,
    ):
        app.include_router(module.router, responses=_ERRORS)
    app.openapi = lambda: _document(app)  # type: ignore[method-assign]
    return app


def _document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with the shape of events: each is read by itself, so the framework does not know of it."""
    if not app.openapi_schema:
        whole = FastAPI.openapi(app)
        said = said_schema("#/components/schemas/{model}")
        whole["components"]["schemas"] |= {**said.pop("$defs", {}), "Said": said}
    return app.openapi_schema or {}


def hold_catalogue() -> None:
    """Keep the collector from walking what never goes away: the catalogue and the searches remembered from it.

    To be called once, when a server process starts. From then on garbage is collected after an edit is answered
    (`jobs.save_edit`), not in the middle of one, where it made the slowest edits twice as slow; the threshold left is a
    net.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(2_000_000, 10, 10)


def openapi() -> dict[str, object]:
    """The OpenAPI document of the API."""
    return _api().openapi()


class _SqueezedAbroad(GZipMiddleware):
    """Squeezes answers to other devices; to this machine itself the way is faster than the squeezing."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request of this machine by."""
        at_home = (
            scope["type"] == "http" and scope.get("client") is not None and scope["client"][0] in ("127.0.0.1", "::1")
        )
        await (self.app if at_home else super().__call__)(scope, receive, send)


class _Limits:
    """The most a request may bring: more where whole archives with their photos, or drawings of others, come in."""

    def __init__(self, app: ASGIApp) -> None:
        self.usual = RequestBodyLimitMiddleware(app, max_body_size=LARGEST_BODY)
        self.archives = RequestBodyLimitMiddleware(app, max_body_size=LARGEST_ARCHIVE)
        self.drawings = RequestBodyLimitMiddleware(app, max_body_size=LARGEST_FILE + 1000)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through by the limit of its path."""
        own = {"/api/import": self.archives, "/api/pictures": self.drawings}
        await own.get(scope.get("path", ""), self.usual)(scope, receive, send)


def _asked_file(web: Path, rest: str) -> Path:
    """The file of the front end that was asked for; its first page for any other path, however odd."""
    first = web / "index.html"
    try:
        file = (web / rest).resolve()
        return file if rest and file.is_relative_to(web.resolve()) and file.is_file() else first
    except (OSError, ValueError):  # longer than a file system's names, or with a NUL in it
        return first


def create_app(store: Store, web: Path | None = None, settings: Settings | None = None) -> Guard:
    """The whole application over a store; `web` is the folder of the built front end."""
    app = _api()
    app.state.service = Service(store)
    install(app)
    app.add_middleware(_SqueezedAbroad, minimum_size=1000, compresslevel=2)

    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def no_such(rest: str) -> Response:
        raise Fault(
            problem("not-there", "Not there", 404, f"There is nothing at /api/{rest}.", "See /api/openapi.json.")
        )

    given = settings or Settings()
    if (trust := given.trust) is not None:

        @app.get("/trust", include_in_schema=False)
        def how_to_trust() -> HTMLResponse:
            return HTMLResponse(trust_page(trust))

        @app.get("/trust/crew.crt", include_in_schema=False)
        def certificate() -> Response:
            return Response(crew_certificate(trust), media_type="application/x-x509-ca-cert")

    if web is not None and (web / "index.html").exists():
        app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

        @app.get("/face.woff2", include_in_schema=False)
        def face() -> Response:
            found = next((web / "assets").glob("*-latin-wght-normal-*.woff2"), None)
            if found is None:
                raise Fault(
                    problem(
                        "not-there", "Not there", 404, "The pages were built without their face.", "Build them again."
                    )
                )
            return FileResponse(found, media_type="font/woff2", headers={"Cache-Control": "max-age=86400"})

        @app.get("/{rest:path}", include_in_schema=False)
        def page(rest: str) -> FileResponse:
            return FileResponse(_asked_file(web, rest), headers={"Cache-Control": "no-cache"})

    app.add_middleware(_Limits)
    guard = Guard(app, given, Sessions(store))
    app.state.guard = guard
    return guard
