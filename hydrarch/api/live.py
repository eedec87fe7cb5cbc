"""News as it happens: one stream for all jobs, so that all tabs of a browser can share it."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import suppress

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from hydrarch.api.guard import Guard
from hydrarch.api.service import ServiceIn

__all__ = ["router"]

_LOOKS = 10.0  # s after which it is looked whether who listens may still

router = APIRouter(prefix="/api/live", tags=["jobs"])


@router.get("", summary="News of all jobs as it happens", response_class=EventSourceResponse)
async def live(service: ServiceIn, request: Request) -> AsyncIterator[ServerSentEvent]:
    """Server-sent events: which job changed, what of it ("plan", "events", "gone", "here", "photos"), the newest
    revision of its plan, and by which page.
    """
    guard: Guard = request.app.state.guard
    queue, leave = service.news.listen()
    try:
        yield ServerSentEvent(retry=2000, comment="listening")
        while True:
            with suppress(TimeoutError):
                told = None
                told = await asyncio.wait_for(queue.get(), _LOOKS)
            if not guard.lets_in(request.headers):  # the session ended while it listened
                return
            if told is not None:
                yield ServerSentEvent(
                    data={"job": told.job, "what": told.what, "revision": told.revision, "by": told.by}
                )
    finally:
        leave()
