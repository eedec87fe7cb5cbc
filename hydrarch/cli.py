"""The command line: demo, serve, export, import, revisions, take-back, backup, restore, openapi, schema.

Usage: python -m hydrarch demo [--port N] [--data DIR] [--reset] [--share ADDRESS [--plain] --passphrase WORDS]
Paths are taken from where the person stands, which `./run` passes on as HYDRARCH_FROM.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import socket
import sqlite3
import sys
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from types import FrameType

import uvicorn

from hydrarch.api.apart import ready_apart
from hydrarch.api.app import create_app, hold_catalogue, openapi
from hydrarch.api.guard import Guard, Settings
from hydrarch.api.jobs import bring_job
from hydrarch.api.passphrases import changed_since, weakness
from hydrarch.api.patience import Patient, more_files
from hydrarch.api.photos import archived_photos
from hydrarch.api.service import Service, hold_book
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan import references
from hydrarch.core.practice.attempt import assessed
from hydrarch.core.practice.exercise import shipped_exercise
from hydrarch.demo import JOBS, PRACTISER, demo_attempts, demo_events, demo_job
from hydrarch.devices.authority import Certified, certified
from hydrarch.formats.explained import BadFile
from hydrarch.formats.exports import EXPORTS, Subject
from hydrarch.formats.schema import job_schema
from hydrarch.formats.trusting import Trust, fingerprint
from hydrarch.store.audit import add_audit
from hydrarch.store.database import Store
from hydrarch.store.errors import StoreError
from hydrarch.store.events import add_events, events
from hydrarch.store.folder import COPIES, FILE, daily_copy, held, restore, salvaged
from hydrarch.store.jobs import add_job, delete_job, job, job_exists, revision, revisions, save_plan
from hydrarch.store.practice import attempt_as_row, attempt_rows, drop_attempt, keep_attempt

__all__ = ["Refused", "main", "share_words"]

ROOT = Path(__file__).resolve().parent.parent


class Refused(Exception):
    """A command that cannot be done, with what to do instead."""


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    given = _parser().parse_args(argv)
    if given.command == "schema":
        sys.stdout.write(job_schema())
        return 0
    if given.command == "openapi":
        print(json.dumps(openapi(), indent=1, sort_keys=True))
        return 0
    if given.command == "references":
        print(json.dumps(references.table(), indent=2))
        return 0
    try:
        if given.command in ("restore", "salvage"):
            return _restore(given) if given.command == "restore" else _salvage(given)
        if given.command in ("demo", "serve"):
            with held(given.data, given.command):
                return _with_store(given)
        return _with_store(given)
    except (StoreError, BadFile, HydrarchError, OSError, Refused) as error:
        print(f"hydrarch: {error}", file=sys.stderr)
        return 1
    except sqlite3.DatabaseError as error:
        print(
            f"hydrarch: {given.data / FILE} is torn ({error}). What can still be read of it: ./run salvage "
            "FOLDER. Copies of "
            f"earlier days: {given.data / COPIES}, put back by ./run restore FILE --replace.",
            file=sys.stderr,
        )
        return 1


def _with_store(given: argparse.Namespace) -> int:
    store = Store(given.data / FILE, create=given.command in ("demo", "serve", "import"))
    try:
        hold_book(store)
        return int(_COMMANDS[given.command](store, given))
    finally:
        store.close()


def _path(text: str) -> Path:
    """A path as the person meant it: from where they stand, not from the checkout."""
    return Path(os.environ.get("HYDRARCH_FROM", ".")) / text


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="hydrarch", description="Draw a water line once; everything after it follows."
    )
    commands = parser.add_subparsers(dest="command", required=True)
    shared = argparse.ArgumentParser(add_help=False)
    shared.add_argument(
        "--data", type=_path, default=ROOT / "data", help="folder of the database (default: data, beside the program)"
    )
    served = argparse.ArgumentParser(add_help=False, parents=[shared])
    served.add_argument("--port", type=int, default=8017, help="port to listen on; 0 takes a free one (default: 8017)")
    served.add_argument("--share", metavar="ADDRESS", help="also answer on this address of the local network")
    served.add_argument("--passphrase", help="what the crew types to join; needed with --share")
    served.add_argument(
        "--owner-passphrase",
        help="what the owner types instead: with it only the owner deletes for good, ends sessions and restores",
    )
    served.add_argument(
        "--plain", action="store_true", help="share by plain HTTP alone, without a certificate of the crew's own"
    )
    demo = commands.add_parser("demo", parents=[served], help="serve with the demo job")
    demo.add_argument("--reset", action="store_true", help="put the demo job back as it was")
    commands.add_parser("serve", parents=[served], help="serve the jobs kept here")
    export = commands.add_parser("export", parents=[shared], help="print a job as a file")
    export.add_argument("job")
    export.add_argument("--archive", type=_path, metavar="FILE", help="with its photos, as a zip, into this file")
    bring = commands.add_parser("import", parents=[shared], help="start a job from a file")
    bring.add_argument("file", type=_path)
    told = commands.add_parser("revisions", parents=[shared], help="list the revisions of a job")
    told.add_argument("job")
    back = commands.add_parser("take-back", parents=[shared], help="go back to an earlier revision of a job")
    back.add_argument("job")
    back.add_argument("to", type=int, metavar="REVISION")
    backup = commands.add_parser("backup", parents=[shared], help="copy the database, in use or not")
    backup.add_argument("target", type=_path)
    restore = commands.add_parser("restore", parents=[shared], help="put a copy of the database in its place")
    restore.add_argument("source", type=_path)
    restore.add_argument(
        "--replace", action="store_true", help="also where there is a database already; it is kept beside"
    )
    save = commands.add_parser(
        "salvage", parents=[shared], help="write what can be read of a torn database into a folder"
    )
    save.add_argument("target", type=_path)
    commands.add_parser("openapi", help="print the OpenAPI document")
    commands.add_parser("schema", help="print the JSON Schema of a job file")
    commands.add_parser("references", help="print what points at what in a plan, for the pages")
    return parser


def _demo(store: Store, given: argparse.Namespace) -> int:
    return _serve(store, given)


def put_demo(store: Store, *, reset: bool) -> None:
    """Put the demo jobs in, anew if asked to."""
    for name in JOBS:
        if _wanted(store, name, reset):
            add_job(store, name, demo_job(name).plan)
            add_events(store, name, demo_events(name, time.time()))
    rows = {r.id for r in attempt_rows(store, PRACTISER)}
    for attempt in demo_attempts(time.time()):
        if reset and attempt.id in rows:
            drop_attempt(store, PRACTISER, attempt.id)
        if reset or attempt.id not in rows:
            exercise = shipped_exercise(attempt.exercise)
            went = assessed(exercise, derive(exercise.plan), attempt)
            keep_attempt(store, attempt_as_row(attempt, PRACTISER, went.share, went.missed, {}))


def _wanted(store: Store, name: str, reset: bool) -> bool:
    """Whether a demo job is to be put in: it is not there, or was taken out to be put in anew."""
    there = job_exists(store, name) is not None
    if there and reset:
        delete_job(store, name)
    return reset or not there


def share_words(given: argparse.Namespace) -> str:
    """The crew's passphrase: typed, or from the environment, where no list of processes shows it; at least so long that
    it is not guessed.
    """
    words = given.passphrase or os.environ.get("HYDRARCH_PASSPHRASE", "")
    if not words:
        raise Refused(
            "--share wants a passphrase, so that only the crew gets in: set HYDRARCH_PASSPHRASE, or give "
            "--passphrase WORDS (which others on this machine can see)"
        )
    if weak := weakness(words):
        raise Refused(f"that passphrase will not do: {weak}; take a few words that are not said together")
    return str(words)


def owner_words(given: argparse.Namespace, crew: str) -> str | None:
    """The owner's passphrase, where there is one beside the crew's."""
    words = given.owner_passphrase or os.environ.get("HYDRARCH_OWNER_PASSPHRASE", "")
    if not words:
        return None
    if weak := weakness(words):
        raise Refused(f"the owner's passphrase will not do: {weak}")
    if words == crew:
        raise Refused("the owner's passphrase must be another than the crew's")
    return str(words)


def _serve(store: Store, given: argparse.Namespace) -> int:
    passphrase = share_words(given) if given.share else None
    owner = owner_words(given, passphrase) if passphrase else None
    if passphrase and changed_since(store, passphrase):
        add_audit(store, time.time(), "", "passphrase changed", "all sessions were ended")
    host = given.share or "127.0.0.1"
    with _listener(host, given.port) as plain:
        port = plain.getsockname()[1]
        if given.command == "demo":  # only now: a port that is taken must not cost anyone their job
            put_demo(store, reset=given.reset)
        if not given.share or given.plain:
            app = create_app(
                store,
                ROOT / "web" / "dist",
                Settings(hosts=(*Settings().hosts, host), passphrase=passphrase, owner=owner),
            )
            _run(store, app, [(plain, None)], [f"Hydrarch is at http://{host}:{port}/ (Ctrl-C stops it)"])
            return 0
        try:
            crew = certified(given.data / "trust", host)
        except ValueError as error:
            raise Refused(
                f"{error}; or say --plain to share it without a certificate, so that no phone opens it with no signal"
            ) from error
        with _listener(host, port + 1 if given.port else 0) as secure:
            trust = Trust(f"http://{host}:{port}", f"https://{host}:{secure.getsockname()[1]}", crew.authority)
            settings = Settings(hosts=(*Settings().hosts, host), passphrase=passphrase, owner=owner, trust=trust)
            _run(
                store,
                create_app(store, ROOT / "web" / "dist", settings),
                [(plain, None), (secure, crew)],
                [
                    f"Hydrarch is at {trust.plain}/ and at {trust.secure}/ (Ctrl-C stops it)",
                    f"A phone comes to trust it, once, by {trust.plain}/trust; the certificate's fingerprint there is",
                    fingerprint(trust),
                ],
            )
    return 0


def _listener(host: str, port: int) -> socket.socket:
    """A socket that listens there. Raises `Refused`."""
    found = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        found.bind((host.strip("[]"), port))
        found.listen(128)  # who comes before it is all set up waits, and is not turned away
    except (OSError, OverflowError) as error:
        found.close()
        raise Refused(f"cannot listen on {host}:{port} ({getattr(error, 'strerror', error)}); try --port 0") from error
    return found


class _Server(uvicorn.Server):
    """One of the listeners of an application: told to stop, all of them stop."""

    all: list[_Server]

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Stop, and have the others stop."""
        for one in self.all:
            super(_Server, one).handle_exit(sig, frame)


def _run(
    store: Store, app: Guard, listeners: Sequence[tuple[socket.socket, Certified | None]], says: Sequence[str]
) -> None:
    """Serve an application on all of these, until it is told to stop."""
    hold_catalogue()
    more_files()
    ready_apart()
    servers = []
    for _, crew in listeners:
        config = uvicorn.Config(
            app,
            log_level="warning",
            http=Patient,
            timeout_graceful_shutdown=1,
            ssl_certfile=crew.certificate if crew else None,
            ssl_keyfile=crew.key if crew else None,
        )
        servers.append(_Server(config))
    for server in servers:
        server.all = servers
    print("\n".join(says), flush=True)

    stopped = threading.Event()
    copies = threading.Thread(target=_copy_daily, args=(store, stopped), daemon=True)
    copies.start()

    async def serve() -> None:
        await asyncio.gather(*(s.serve([x]) for s, (x, _) in zip(servers, listeners, strict=True)))

    try:
        with suppress(KeyboardInterrupt):
            asyncio.run(serve())
    finally:
        stopped.set()
        copies.join()


def _copy_daily(store: Store, stopped: threading.Event) -> None:
    """Copy the database each day that it is served, until told to stop; what goes wrong is said and tried again."""
    while True:
        try:
            daily_copy(store, store.path.parent, time.strftime("%Y-%m-%d"))
        except (StoreError, OSError) as error:
            print(f"hydrarch: no copy of today: {error}", file=sys.stderr)
        if stopped.wait(600):
            return


def _export(store: Store, given: argparse.Namespace) -> int:
    plan = job(store, given.job).plan
    derived = derive(plan)
    log = [e for _, e in events(store, given.job)]
    stands = where_it_stands(plan, derived, log, time.time())
    subject = Subject(
        id=given.job,
        plan=plan,
        derived=derived,
        events=log,
        stands=stands,
        photos=lambda: archived_photos(store, given.job),
    )
    if given.archive is not None:
        found = EXPORTS["archive"].write(subject)
        given.archive.write_bytes(found if isinstance(found, bytes) else found.encode())
    else:
        sys.stdout.write(str(EXPORTS["job"].write(subject)))
    return 0


def _import(store: Store, given: argparse.Namespace) -> int:
    name = given.file.name.removesuffix(".json").removesuffix(".hydrarch")
    print(bring_job(Service(store), given.file.read_bytes(), name).id)
    return 0


def _revisions(store: Store, given: argparse.Namespace) -> int:
    for r in revisions(store, given.job):
        when = time.strftime("%Y-%m-%d %H:%M", time.localtime(r.saved))
        print(f"{r.number:>5}  {when}  {r.points} points, {r.runs} runs")
    return 0


def _take_back(store: Store, given: argparse.Namespace) -> int:
    with store.atomic():
        newest = job_exists(store, given.job)
        earlier = revision(store, given.job, given.to)
        found = save_plan(store, given.job, newest or 0, earlier.plan, references.ids_of(earlier.plan))
    print(f"{found.id} is at revision {found.revision}, drawn as in {given.to}")
    return 0


def _backup(store: Store, given: argparse.Namespace) -> int:
    store.backup(given.target)
    return 0


def _restore(given: argparse.Namespace) -> int:
    with held(given.data, "restore"):
        now, kept, was = restore(given.data, given.source, replace=given.replace)
    print(f"{given.data / FILE} holds what {given.source} held: {now.words()}")
    if kept is not None:
        print(f"what was there is kept as {kept}: {was.words() if was else 'torn, as it lay'}")
    return 0


def _salvage(given: argparse.Namespace) -> int:
    given.target.mkdir(parents=True, exist_ok=True)
    whole = 0
    for name, plan, records in salvaged(given.data / FILE):
        if plan is None:
            print(f"{name}: no drawing can be read; {len(records)} records")
        else:
            whole += 1
            print(f"{name}: drawing and {len(records)} records")
        told = {"plan": json.loads(plan) if plan else None, "records": [json.loads(r) for r in records]}
        (given.target / f"{name}.salvaged.json").write_text(json.dumps(told, indent=1), encoding="utf-8")
    print(f"{whole} jobs with their drawings are in {given.target}")
    return 0


_COMMANDS = {
    "demo": _demo,
    "serve": _serve,
    "export": _export,
    "import": _import,
    "revisions": _revisions,
    "take-back": _take_back,
    "backup": _backup,
}
