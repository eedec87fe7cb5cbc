"""What may be said of a job's work: one event as it comes from a page or a file, with its limits."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from hydrarch.core.making.state import Event, EventKind, Mark, SaidKind

__all__ = ["MOST_JOINTS", "KeptEvent", "Said"]

MOST_JOINTS = 5000
_FROM, _TO = 946_684_800.0, 4_102_444_800.0
"""The years 2000 to 2100, in seconds since 1970: a clock outside them is wrong."""


def _plain(text: str) -> str:
    if any((c < " " and c not in "\n\t") or c == "\x7f" or "\ud800" <= c <= "\udfff" for c in text):
        raise ValueError("may not hold control characters or halves of letters")
    return text


Text = Annotated[str, AfterValidator(_plain)]
Moment = Annotated[float, Field(ge=_FROM, le=_TO)]
Seconds = Annotated[float, Field(ge=0, le=1e7)]
Gauged = Annotated[float, Field(ge=0, le=1e8)]
Warmth = Annotated[float, Field(ge=273.15, le=373.15)]
JointName = Annotated[Text, Field(min_length=1, max_length=160)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


class _Any(_Strict):
    """What every event says, whoever keeps it."""

    id: Annotated[str, Field(pattern=r"^[0-9a-fA-F-]{32,36}$", examples=["0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10"])]
    at: Moment
    by: Annotated[Text, Field(min_length=1, max_length=60)]
    section: Annotated[Text, Field(max_length=60)] | None = None
    pressure: Annotated[float, Field(gt=0, le=1e7)] | None = None
    ended: Moment | None = None
    passed: bool | None = None
    temperature: Annotated[float, Field(ge=233.15, le=333.15)] | None = None
    override: Annotated[Text, Field(max_length=500)] = ""
    note: Annotated[Text, Field(max_length=500)] = ""
    of: Annotated[Text, Field(max_length=160)] = ""
    count: Annotated[int, Field(ge=0, le=100_000)] | None = None
    readings: Annotated[tuple[tuple[Seconds, Gauged, Warmth | None], ...], Field(max_length=2000, strict=False)] = ()

    @model_validator(mode="after")
    def _in_order(self) -> _Any:
        if self.ended is not None and self.ended <= self.at:
            raise ValueError("a test ends after it starts")
        return self


_OF_NO_JOINT = ("tested", "buried", "handed_over", "taken_over", "tended", "got", "laid_out")


class Said(_Any):
    """What the crew did, with an id the phone made, so that sending it twice changes nothing. Times in s since 1970."""

    kind: SaidKind
    joints: list[JointName] = Field(default_factory=list, max_length=MOST_JOINTS)

    @model_validator(mode="after")
    def _whole(self) -> Said:
        if self.kind in ("tested", "buried") and self.section is None:
            raise ValueError(f"an event '{self.kind}' names its section")
        if self.kind not in _OF_NO_JOINT and not self.joints:
            raise ValueError(f"an event '{self.kind}' names its joints")
        if self.kind == "left_dry" and not self.note.strip():
            raise ValueError("what is left dry on purpose says why, for whoever comes next")
        if self.kind == "handed_over" and not self.note.strip():
            raise ValueError("who hands over says what comes next")
        if self.kind == "taken_over" and not self.of:
            raise ValueError("who takes over says which hand-over it is")
        if self.kind in ("tended", "got", "laid_out") and not self.of:
            raise ValueError(f"an event '{self.kind}' says what it was done to")
        if self.kind in ("got", "laid_out") and self.count is None:
            raise ValueError(f"an event '{self.kind}' says how many")
        if self.kind == "tested" and (self.pressure is None or self.ended is None or self.passed is None):
            raise ValueError("a test has a pressure, an end and a result")
        return self


class _Mark(_Strict):
    signature: Annotated[Text, Field(max_length=400)] = ""
    also: Annotated[Text, Field(max_length=160)] = ""
    was: Annotated[Text, Field(max_length=160)] = ""
    where: Annotated[Text, Field(max_length=400)] = ""


class KeptEvent(_Any):
    """An event as a job's file has it: with what each joint was, under the same limits as what a page says."""

    id: Annotated[Text, Field(min_length=1, max_length=60)]
    kind: EventKind
    joints: Annotated[dict[JointName, _Mark], Field(max_length=4 * MOST_JOINTS)] = Field(default_factory=dict)
    clock: Annotated[float, Field(ge=-4e9, le=4e9)] | None = None
    told: Annotated[tuple[Annotated[Text, Field(max_length=500)], ...], Field(max_length=200, strict=False)] = ()

    def event(self) -> Event:
        """The event itself."""
        joints = {n: Mark(**m.model_dump()) for n, m in self.joints.items()}
        return Event(**{**self.model_dump(), "joints": joints})
