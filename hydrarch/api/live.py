"""News as it happens: one stream for all jobs, so that all tabs of a browser can share it."""

from __future__ import annotations

from collections.abc import AsyncIterator

from fastapi import APIRouter
from fastapi.sse import EventSourceResponse, ServerSentEvent

from hydrarch.api.service import ServiceIn

__all__ = ["router"]

router = APIRouter(prefix="/api/live", tags=["jobs"])


@router.get("", summary="News of all jobs as it happens", response_class=EventSourceResponse)
async def live(service: ServiceIn) -> AsyncIterator[ServerSentEvent]:
    """Server-sent events: which job changed, what of it ("plan", "events", "gone"), the newest revision of its plan, and by which page."""
    queue, leave = service.news.listen()
    try:
        yield ServerSentEvent(retry=2000, comment="listening")
        while True:
            told = await queue.get()
            yield ServerSentEvent(data={"job": told.job, "what": told.what, "revision": told.revision, "by": told.by})
    finally:
        leave()
