"""What the store raises.

StoreError ├── NotThere     no such job or revision ├── Clash        an edit was made on a revision that is no longer
the newest ├── Reused       a new thing under an id that the job has used before ├── NewerStore   the file was written
by a newer version └── BadStore     the file cannot be opened or is no database of ours
"""

from __future__ import annotations

from pathlib import Path

__all__ = ["BadStore", "Clash", "InUse", "NewerStore", "NotThere", "Reused", "StoreError"]


class StoreError(Exception):
    """Base of what the store raises."""


class NotThere(StoreError):
    """There is no `what` called `name`."""

    def __init__(self, what: str, name: str) -> None:
        self.what, self.name = what, name
        super().__init__(f"there is no {what} {name}")


class Clash(StoreError):
    """An edit of `job` was made on revision `made_on`, but `newest` is the newest; `plan` is that one's JSON."""

    def __init__(self, job: str, made_on: int, newest: int, plan: str) -> None:
        self.job, self.made_on, self.newest, self.plan = job, made_on, newest, plan
        super().__init__(f"revision {newest} of {job} was saved after revision {made_on}, on which this edit was made")


class Reused(StoreError):
    """A plan of `job` has new things under `ids` that the job has used before."""

    def __init__(self, job: str, ids: list[str]) -> None:
        self.job, self.ids = job, ids
        super().__init__(
            f"{', '.join(ids[:3])}{' and others' if len(ids) > 3 else ''}: used before in this job for something else"
        )


class NewerStore(StoreError):
    """The file at `path` holds migration `number`, which this version does not know."""

    def __init__(self, path: Path, number: int) -> None:
        self.path, self.number = path, number
        super().__init__(
            f"{path} was written by a newer version (its form is {number}): bring Hydrarch up to date to open it"
        )


class InUse(StoreError):
    """The folder at `path` is held by `holder`."""

    def __init__(self, path: Path, holder: str) -> None:
        self.path, self.holder = path, holder
        super().__init__(f"{path} is in use ({holder}): stop that first")


class BadStore(StoreError):
    """The file at `path` cannot be used, because of `reason`."""

    def __init__(self, path: Path, reason: str) -> None:
        self.path, self.reason = path, reason
        super().__init__(f"{path} cannot be used: {reason}")
