"""A problem's plain mend, tried before it is done: what goes with it, and what comes."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from hydrarch.api.service import ServiceIn
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.editing.fixes import MENDS, mended
from hydrarch.core.plan.document import Plan

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["survey and size"])


class MendIn(BaseModel):
    """A problem by its key: its code and where it is."""

    model_config = ConfigDict(extra="forbid", strict=True)
    key: str


@dataclass(frozen=True, slots=True)
class Mended:
    """The plan with the mend done, of the revision named, and what is told of it: what goes and what comes.

    A problem told with other figures goes as it was and comes as it is. Nothing is saved.
    """

    says: str
    revision: int
    plan: Plan
    goes: tuple[str, ...]
    comes: tuple[str, ...]


@router.post("/mend", summary="Try the one-press fix of a problem")
def try_mend(service: ServiceIn, job_id: str, asked: MendIn) -> Mended:
    """What the mend does to the plan, and to all that is told of it."""
    found = service.job(job_id)
    before = service.derived(found).problems()
    problem = next((p for p in before if p.key == asked.key), None)
    if problem is None:
        raise Unknown("problem", asked.key, [p.key for p in before])
    plan = mended(found.plan, problem) if problem.does else None
    if plan is None:
        raise HydrarchError("there is no one-press fix for that: change it by hand")
    after = service.worked_out(plan, plan.model_dump_json(), Derivation.ROOMS).problems()
    old, new = (tuple(dict.fromkeys(p.says for p in told)) for told in (before, after))
    goes, comes = (tuple(s for s in a if s not in b) for a, b in ((old, new), (new, old)))
    return Mended(MENDS[problem.code].says, found.revision, plan, goes, comes)
