"""How long heads run: what a watering is to bring, what the soil takes in, and the answer in cycles."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.core.coverage.need import RunTime, run_time
from hydrarch.core.units import System, read

__all__ = ["router"]

router = APIRouter(prefix="/api/watering", tags=["survey and size"])


class Wanted(BaseModel):
    """The mean rate (m/s) and scheduling coefficient that a coverage has, what is to be brought at once (in words), and the soil."""

    model_config = ConfigDict(extra="forbid")
    mean: Annotated[float, Field(gt=0, le=1)]
    scheduling: float | None
    need: Annotated[str, Field(max_length=60, examples=["6 mm", "1/4 in"])]
    soil: Annotated[str, Field(max_length=40)]
    units: System = "metric"


@router.post("/run-time", summary="How long heads run for a watering")
def how_long(asked: Wanted) -> RunTime:
    """The whole time, and the parts it is run in where water comes faster than the soil takes it in."""
    return run_time(asked.mean, asked.scheduling, read(asked.need, "depth", asked.units), asked.soil)
