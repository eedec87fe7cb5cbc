"""A change of a plan as it travels: what is put into its lists and what is gone from them, by what things are called,
and what else is set.

It is small where a plan is large, and it is what one person did: whoever drew in another corner has no part in it.
"""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.references import KEYS

__all__ = ["Change", "Listed", "applied", "change_of"]

Item = dict[str, Any]


def _key(part: str, item: Item) -> str:
    """What an item of a list of a plan is called."""
    return " ".join(str(item[field]) for field in KEYS[part])


def _listed(part: str) -> str:
    if part not in KEYS:
        raise ValueError(f"there is no list called {part}; use one of {', '.join(KEYS)}")
    return part


Name = Annotated[str, AfterValidator(_listed)]


class Listed(BaseModel):
    """Things put into one list, each in the place of the one that is called so or at the end, and what those are called
    that are gone.
    """

    model_config = ConfigDict(extra="forbid", strict=True)
    put: Annotated[list[Item], Field(max_length=20_000)] = []
    gone: Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=20_000)] = []


class Change(BaseModel):
    """What changed in a plan: in its lists, by their names, and in what else it has (`told`, each part whole)."""

    model_config = ConfigDict(extra="forbid", strict=True)
    lists: Annotated[dict[Name, Listed], Field(max_length=len(KEYS))] = {}
    told: dict[Annotated[str, Field(max_length=40)], Any] = {}


def applied(body: Item, change: Change) -> Item:
    """A plan as it is after a change. Raises `HydrarchError` for things that say not what they are called."""
    found = dict(body)
    for name, listed in change.lists.items():
        try:
            kept = {_key(name, x): x for x in body.get(name, ())}
            for key in listed.gone:
                kept.pop(key, None)
            kept |= {_key(name, x): x for x in listed.put}
        except (KeyError, TypeError) as error:
            raise HydrarchError(
                f"one of the {name} that were sent does not say what it is called ({error}): save it once more"
            ) from None
        found[name] = list(kept.values())
    for part, value in change.told.items():
        if part in KEYS:
            raise HydrarchError(f"the {part} travel one by one: save it once more")
        found[part] = value
    return found


def change_of(before: Item, after: Item) -> Change:
    """The change from one plan to another, of like parts."""
    lists: dict[Name, Listed] = {}
    told: dict[str, Any] = {}
    for name, value in after.items():
        if value == before.get(name):
            continue
        if name not in KEYS:
            told[name] = value
            continue
        was = {_key(name, x): x for x in before.get(name, ())}
        now = {_key(name, x): x for x in value}
        lists[name] = Listed(put=[x for k, x in now.items() if was.get(k) != x], gone=[k for k in was if k not in now])
    return Change(lists=lists, told=told)
