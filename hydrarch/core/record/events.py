"""What a crew did: one shape of an event, as it is said by a page, kept in the database and written to a job file.

An event is read from JSON by one adapter with its limits, once, at the edge; the core makes events directly. Events are
only ever added: what was said by mistake is withdrawn by another event, and both stay in the record.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, fields
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import AfterValidator, ConfigDict, Field, TypeAdapter, ValidationError

__all__ = [
    "MOST_JOINTS",
    "READ",
    "Event",
    "EventKind",
    "Instrument",
    "JointName",
    "JointMark",
    "Moment",
    "Observation",
    "Reading",
    "SaidKind",
    "JointSpot",
    "Text",
    "event_body",
    "read_events",
    "read_said",
    "said_schema",
    "standing_events",
    "stored_event",
]

MOST_JOINTS = 5000
READ = ("pressure", "flow", "takes")
"""What is read at a place by an instrument, in a scenario."""
SaidKind = Literal[
    "dry_fitted",
    "left_dry",
    "made",
    "undone",
    "looked",
    "levelled",
    "tested",
    "buried",
    "handed_over",
    "taken_over",
    "tended",
    "got",
    "laid_out",
    "stepped",
    "observed",
    "leaked",
    "mended",
    "withdrawn",
]
"""What a crew may say; a zone that ran is written by the server alone."""
EventKind = Literal[SaidKind, "ran"]
InstrumentKind = Literal["gauge", "logger", "simulated"]

_FROM, _TO = 946_684_800.0, 4_102_444_800.0
"""The years 2000 to 2100, in seconds since 1970: a clock outside them is wrong."""
_STRICT = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


def _plain(text: str) -> str:
    if any((c < " " and c not in "\n\t") or c == "\x7f" or "\ud800" <= c <= "\udfff" for c in text):
        raise ValueError("may not hold control characters or halves of letters")
    return text


Text = Annotated[str, AfterValidator(_plain)]
Short = Annotated[Text, Field(max_length=160)]
Long = Annotated[Text, Field(max_length=500)]
Moment = Annotated[float, Field(ge=_FROM, le=_TO)]
JointName = Annotated[Text, Field(min_length=1, max_length=160)]


@dataclass(frozen=True, slots=True)
class JointSpot:
    """Where a joint lay (m): east, north, level, and the depth of its pipe below ground."""

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    x: float
    y: float
    level: float
    depth: float


@dataclass(frozen=True, slots=True)
class JointMark:
    """What a joint was when something was done to it: its signature, its other name, the name it was recorded under
    before.

    `where` says for people where it was; these are "" where there is nothing to say. `spot` is where the drawing had it
    when it was made: what is in the ground stays there, whatever is drawn later.
    """

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    signature: Annotated[Text, Field(max_length=400)] = ""
    also: Short = ""
    was: Short = ""
    where: Annotated[Text, Field(max_length=400)] = ""
    spot: JointSpot | None = None


@dataclass(frozen=True, slots=True)
class Reading:
    """The gauge at one time: `at` in s from the first, gauge pressure in Pa, water or pipe temperature in K where it
    was read.

    A `simulated` one was made by a stand-in: it shows how a test is read, and proves nothing.
    """

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    at: Annotated[float, Field(ge=0, le=1e7)]
    pressure: Annotated[float, Field(ge=0, le=1e8)]
    temperature: Annotated[float, Field(ge=273.15, le=373.15)] | None = None
    simulated: bool = False


@dataclass(frozen=True, slots=True)
class Instrument:
    """What a test's readings were taken with: a gauge read by hand, a logger's file, or a simulated stand-in, which
    proves nothing.

    `name` is its number or make-up in words, `error` (Pa) how far it may be off, `thermometer` (K) how far that
    beside it is, from one reading to another.
    """

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    kind: InstrumentKind
    name: Annotated[Text, Field(max_length=80)] = ""
    error: Annotated[float, Field(gt=0, le=1e6)] | None = None
    thermometer: Annotated[float, Field(gt=0, le=10)] | None = None


@dataclass(frozen=True, slots=True)
class Observation:
    """What was read at a place while a scenario ran, to find a fault: gauge pressure (Pa), flow (m³/s) or what a drain
    `takes` before it backs up (m³/s), how far the instrument may be off (same unit), and the valve that was `shut`
    meanwhile, "" for none.

    Without an instrument it is a `sign` that was seen there, or the fault that was `found` there, by the word for it:
    value and error say nothing then. What was found ends the search: what was seen before it counts no more. A reading
    may name its `instrument`.
    """

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    what: Literal["pressure", "flow", "takes", "sign", "found"]
    value: Annotated[float, Field(ge=0, le=1e8)] = 0.0
    error: Annotated[float, Field(gt=0, le=1e6)] = 1.0
    scenario: Annotated[Text, Field(max_length=60)] = ""
    shut: Annotated[Text, Field(max_length=40)] = ""
    word: Annotated[Text, Field(max_length=40)] = ""
    instrument: Annotated[Text, Field(max_length=60)] = ""


@dataclass(frozen=True, slots=True)
class Event:
    """What the crew did. `at` is seconds since 1970 (UTC); `override` is the reason a gate was passed, "" if none.

    `joints` are those it concerns, each with what it was then; a test also has its section, pressure (Pa), end and
    result, and the readings with their instrument where they were taken down. A hand-over is `told` what stood
    unfinished then. `of` names what an event is about: the hand-over that is taken over, what was tended to, got
    (`count` of it now in the basket) or laid out (1, or 0 where it was taken back), the step of a changeover that was
    done (1, or 0 where that was said by mistake), or the event that is withdrawn. What `leaked` did so at its joints,
    or at `of`, a point or run; `mended` is `of` such a record, or of a point or run: `note` says what was done, `count`
    is 1 where pipe or a joint was opened for it, 0 where not. `level` (m) is the invert that was read at a joint of a
    drain, `seen` what was read at a place of the line to find a fault. `clock` is by how much (s) its times were put
    right, where the clock of the phone that said it was wrong; `page` and `tick` (s) are its second clock, which nobody
    sets: the opening of the page it was said on, and how long that had been open. `device_off` is by how much that
    phone knew its clock to be wrong as it was said, `doubt` how much (s) earlier it may have been, where its clock was
    changed since.
    """

    __pydantic_config__: ClassVar[ConfigDict] = _STRICT
    id: Annotated[Text, Field(min_length=1, max_length=60)]
    kind: EventKind
    at: Moment
    by: Annotated[Text, Field(min_length=1, max_length=60)]
    joints: Annotated[dict[JointName, JointMark], Field(max_length=4 * MOST_JOINTS)] = field(default_factory=dict)
    section: Annotated[Text, Field(max_length=60)] | None = None
    pressure: Annotated[float, Field(gt=0, le=1e7)] | None = None
    ended: Moment | None = None
    passed: bool | None = None
    temperature: Annotated[float, Field(ge=233.15, le=333.15)] | None = None
    override: Long = ""
    note: Long = ""
    readings: Annotated[tuple[Reading, ...], Field(max_length=2000)] = ()
    clock: Annotated[float, Field(ge=-4e9, le=4e9)] | None = None
    device_off: Annotated[float, Field(ge=-4e9, le=4e9)] | None = None
    page: Annotated[Text, Field(max_length=60)] | None = None
    tick: Annotated[float, Field(ge=0, le=4e9)] | None = None
    doubt: Annotated[float, Field(gt=0, le=4e9)] | None = None
    told: Annotated[tuple[Long, ...], Field(max_length=200)] = ()
    of: Short = ""
    count: Annotated[int, Field(ge=0, le=100_000)] | None = None
    instrument: Instrument | None = None
    level: Annotated[float, Field(ge=-3000, le=9000)] | None = None
    seen: Observation | None = None

    @property
    def surely(self) -> float:
        """The earliest time it may have been: what must come after something else is judged by that."""
        return self.at - (self.doubt or 0.0)

    @property
    def simulated(self) -> bool:
        """Whether any of it was read off a stand-in."""
        return any(r.simulated for r in self.readings) or (
            self.instrument is not None and self.instrument.kind == "simulated"
        )


def _in_order(event: Event) -> Event:
    if event.ended is not None and event.ended <= event.at:
        raise ValueError("a test ends after it starts")
    return event


_UUID = re.compile(r"[0-9a-fA-F-]{32,36}")
_OF_NO_JOINT: tuple[SaidKind, ...] = (
    "tested",
    "buried",
    "handed_over",
    "taken_over",
    "tended",
    "got",
    "laid_out",
    "stepped",
    "observed",
    "leaked",
    "mended",
    "withdrawn",
)


def _whole(event: Event) -> Event:
    """What a page may say: it names its joints or its section, and what its kind asks for."""
    kind = event.kind
    if not _UUID.fullmatch(event.id):
        raise ValueError("an event has an id of its own: 32 hexadecimal digits")
    if kind not in get_args(SaidKind):
        raise ValueError(f"an event '{kind}' is written by the server alone")
    if event.clock is not None or event.told or event.doubt is not None:
        raise ValueError("clock, doubt and told are written by the server alone")
    if len(event.joints) > MOST_JOINTS:
        raise ValueError(f"{MOST_JOINTS} joints are the most at once")
    if kind in ("tested", "buried") and event.section is None:
        raise ValueError(f"an event '{kind}' names its section")
    if kind not in _OF_NO_JOINT and not event.joints:
        raise ValueError(f"an event '{kind}' names its joints")
    if kind == "left_dry" and not event.note.strip():
        raise ValueError("what is left dry on purpose says why, for whoever comes next")
    if kind == "handed_over" and not event.note.strip():
        raise ValueError("who hands over says what comes next")
    if kind == "taken_over" and not event.of:
        raise ValueError("who takes over says which hand-over it is")
    if kind in ("tended", "got", "laid_out", "stepped", "observed", "mended", "withdrawn") and not event.of:
        raise ValueError(f"an event '{kind}' says what it was done to")
    if kind == "withdrawn" and not event.note.strip():
        raise ValueError("who withdraws a record says why")
    if kind in ("got", "laid_out", "stepped") and event.count is None:
        raise ValueError(f"an event '{kind}' says how many")
    if kind == "leaked" and not event.of and not event.joints:
        raise ValueError("an event 'leaked' says where")
    if kind == "mended" and (event.count not in (0, 1) or not event.note.strip()):
        raise ValueError("who mended it says what was done, and whether pipe or a joint was opened for it")
    if kind == "levelled" and (event.level is None or len(event.joints) != 1):
        raise ValueError("an event 'levelled' says the invert read at one joint")
    if (kind == "observed") != (event.seen is not None):
        raise ValueError("an event 'observed' says what was read, and no other does")
    if event.seen is not None and (event.seen.what in ("sign", "found")) != bool(event.seen.word):
        raise ValueError("a sign that was seen, or a fault that was found, says which; a reading has no word")
    if event.seen is not None and event.seen.what in READ and not event.seen.scenario:
        raise ValueError("a reading says what ran meanwhile")
    if kind == "tested" and (event.pressure is None or event.ended is None or event.passed is None):
        raise ValueError("a test has a pressure, an end and a result")
    return event


_EVENT: TypeAdapter[Event] = TypeAdapter(Annotated[Event, AfterValidator(_in_order)])
_EVENTS: TypeAdapter[list[Event]] = TypeAdapter(list[Annotated[Event, AfterValidator(_in_order)]])
_SAID: TypeAdapter[Event] = TypeAdapter(Annotated[Event, AfterValidator(_in_order), AfterValidator(_whole)])


def read_said(body: Mapping[str, Any]) -> Event:
    """An event as a page says it: it lists its joints by name.

    Raises Pydantic's `ValidationError` with what is wrong and where.
    """
    told = dict(body)
    if isinstance(told.get("joints"), list) and all(isinstance(n, str) for n in told["joints"]):
        told["joints"] = {name: {} for name in told["joints"]}
    return _SAID.validate_json(json.dumps(told))


def read_events(bodies: Any) -> tuple[Event, ...]:
    """Events as a job file has them. Raises Pydantic's `ValidationError`."""
    return tuple(_EVENTS.validate_json(json.dumps(bodies)))


def event_body(event: Event) -> dict[str, Any]:
    """An event as plain data, as it is stored and exported: what says nothing is left out."""
    found: dict[str, Any] = _EVENT.dump_python(event, mode="json", exclude_defaults=True)
    return {**found, "joints": found.get("joints", {})}


def stored_event(text: str) -> Event:
    """An event from the database.

    One that an earlier version kept, and today's limits would not, is read as it is: nothing is lost by them.
    """
    try:
        return _EVENT.validate_json(text)
    except ValidationError:
        body = json.loads(text)
        known = {f.name: body[f.name] for f in fields(Event) if body.get(f.name) is not None}
        marks = {
            name: JointMark(
                **{f.name: mark.get(f.name, "") for f in fields(JointMark) if f.name != "spot"},
                spot=JointSpot(**mark["spot"]) if mark.get("spot") else None,
            )
            for name, mark in body.get("joints", {}).items()
        }
        if isinstance(known.get("seen"), dict):
            told = known["seen"]
            known["seen"] = Observation(**{f.name: told[f.name] for f in fields(Observation) if f.name in told})
        return Event(
            **{**known, "joints": marks, "readings": (), "instrument": None, "told": tuple(body.get("told", ()))}
        )


def standing_events(events: Iterable[Event]) -> list[Event]:
    """The events that nobody withdrew, in the order they happened; a withdrawal itself cannot be withdrawn."""
    known = sorted(events, key=lambda e: (e.at, e.id))
    gone = {e.of for e in known if e.kind == "withdrawn"}
    return [e for e in known if e.id not in gone or e.kind == "withdrawn"]


def said_schema(ref_template: str) -> dict[str, Any]:
    """The JSON schema of an event as a page says it, made from that of an event."""
    whole = _SAID.json_schema(ref_template=ref_template)
    given = whole["properties"]
    for name in ("clock", "doubt", "told"):
        del given[name]
    given["id"] = {
        "type": "string",
        "pattern": "^[0-9a-fA-F-]{32,36}$",
        "examples": ["0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10"],
    }
    given["kind"] = {"type": "string", "enum": list(get_args(SaidKind))}
    given["joints"] = {
        "type": "array",
        "maxItems": MOST_JOINTS,
        "items": {"type": "string", "minLength": 1, "maxLength": 160},
        "default": [],
    }
    whole["$defs"].pop("JointMark", None)
    whole["$defs"].pop("JointSpot", None)
    return {
        **whole,
        "title": "Said",
        "description": "What the crew did, under an id that the phone made, so that sending it twice changes nothing.",
    }
