"""The command line: demo, serve, export, import, backup, openapi.

Usage: python -m hydrarch demo [--port N] [--data DIR] [--reset] [--share ADDRESS --passphrase WORDS]
"""

from __future__ import annotations

import argparse
import json
import socket
import sys
from collections.abc import Sequence
from pathlib import Path

import uvicorn

from hydrarch.api.apart import ready_apart
from hydrarch.api.app import create_app, hold_catalogue, openapi
from hydrarch.api.guard import Settings
from hydrarch.demo import DEMO_ID, HERBS_ID, YARD_ID, drying_yard, herb_bank, thistledown, thistledown_events
from hydrarch.formats.jobfile import BadFile, read_job_file, write_job_file
from hydrarch.store.database import NotThere, Store
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import add_job, delete_job, job

__all__ = ["main"]

ROOT = Path(__file__).resolve().parent.parent


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    given = _parser().parse_args(argv)
    if given.command == "openapi":
        print(json.dumps(openapi(), indent=1, sort_keys=True))
        return 0
    store = Store(given.data / "hydrarch.sqlite3")
    try:
        return int(_COMMANDS[given.command](store, given))
    except (NotThere, BadFile, OSError) as error:
        print(f"hydrarch: {error}", file=sys.stderr)
        return 1
    finally:
        store.close()


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="hydrarch", description="Draw a water line once; everything after it follows.")
    commands = parser.add_subparsers(dest="command", required=True)
    shared = argparse.ArgumentParser(add_help=False)
    shared.add_argument("--data", type=Path, default=ROOT / "data", help="folder of the database (default: ./data)")
    served = argparse.ArgumentParser(add_help=False, parents=[shared])
    served.add_argument("--port", type=int, default=8017, help="port to listen on; 0 takes a free one (default: 8017)")
    served.add_argument("--share", metavar="ADDRESS", help="also answer on this address of the local network")
    served.add_argument("--passphrase", help="what the crew types to join; needed with --share")
    demo = commands.add_parser("demo", parents=[served], help="serve with the demo job")
    demo.add_argument("--reset", action="store_true", help="put the demo job back as it was")
    commands.add_parser("serve", parents=[served], help="serve the jobs kept here")
    export = commands.add_parser("export", parents=[shared], help="print a job as a file")
    export.add_argument("job")
    bring = commands.add_parser("import", parents=[shared], help="start a job from a file")
    bring.add_argument("file", type=Path)
    backup = commands.add_parser("backup", parents=[shared], help="copy the database, in use or not")
    backup.add_argument("target", type=Path)
    commands.add_parser("openapi", help="print the OpenAPI document")
    return parser


def _demo(store: Store, given: argparse.Namespace) -> int:
    put_demo(store, reset=given.reset)
    return _serve(store, given)


def put_demo(store: Store, *, reset: bool) -> None:
    """Put the demo jobs in, anew if asked to."""
    if _wanted(store, YARD_ID, reset):
        add_job(store, YARD_ID, drying_yard())
    if _wanted(store, HERBS_ID, reset):
        add_job(store, HERBS_ID, herb_bank())
    if _wanted(store, DEMO_ID, reset):
        plan = thistledown()
        add_job(store, DEMO_ID, plan)
        add_events(store, DEMO_ID, thistledown_events(plan))


def _wanted(store: Store, name: str, reset: bool) -> bool:
    """Whether a demo job is to be put in: it is not there, or was taken out to be put in anew."""
    try:
        job(store, name)
    except NotThere:
        return True
    if reset:
        delete_job(store, name)
    return reset


def _serve(store: Store, given: argparse.Namespace) -> int:
    if given.share and not given.passphrase:
        print("hydrarch: --share wants --passphrase WORDS, so that only the crew gets in", file=sys.stderr)
        return 2
    host = given.share or "127.0.0.1"
    settings = Settings(hosts=(*Settings().hosts, host), passphrase=given.passphrase if given.share else None)
    app = create_app(store, ROOT / "web" / "dist", settings)
    hold_catalogue()
    ready_apart()
    with socket.socket() as listener:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind((host, given.port))
        except OSError as error:
            print(f"hydrarch: cannot listen on {host}:{given.port} ({error.strerror}); try --port 0", file=sys.stderr)
            return 1
        print(f"Hydrarch is at http://{host}:{listener.getsockname()[1]}/ (Ctrl-C stops it)", flush=True)
        server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1))
        server.run(sockets=[listener])
    return 0


def _export(store: Store, given: argparse.Namespace) -> int:
    sys.stdout.write(write_job_file(job(store, given.job).plan, events(store, given.job)))
    return 0


def _import(store: Store, given: argparse.Namespace) -> int:
    file = read_job_file(given.file.read_bytes())
    found = add_job(store, given.file.name.split(".")[0], file.plan)
    add_events(store, found.id, file.events)
    print(found.id)
    return 0


def _backup(store: Store, given: argparse.Namespace) -> int:
    store.backup(given.target)
    return 0


_COMMANDS = {"demo": _demo, "serve": _serve, "export": _export, "import": _import, "backup": _backup}
