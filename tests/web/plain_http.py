"""A demo server that also answers to a name of the network, as a phone reaches it: python -m
tests.web.plain_http DATA.
"""

import socket
import sys
from pathlib import Path

import uvicorn

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.cli import put_demo
from hydrarch.store.database import Store

ROOT = Path(__file__).resolve().parents[2]


def main() -> None:
    """Serve until ended."""
    store = Store(Path(sys.argv[1]) / "hydrarch.sqlite3")
    put_demo(store, reset=False)
    settings = Settings(hosts=("127.0.0.1", "trench.test"), requests_per_minute=100_000)
    app = create_app(store, ROOT / "web" / "dist", settings)
    with socket.socket() as listener:
        listener.bind(("127.0.0.1", 0))
        listener.listen(128)  # who comes before it answers waits
        print(f"at http://trench.test:{listener.getsockname()[1]}/", flush=True)
        uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1)).run(sockets=[listener])


if __name__ == "__main__":
    main()
