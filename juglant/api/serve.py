"""Starting the server."""

import gc
import signal
import socket
import sys
import tempfile
from pathlib import Path
from threading import Thread

import uvicorn
from platformdirs import user_data_path

from juglant.api.app import create_app
from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import fill
from juglant.store.database import Studio

STUDIO_FILE = "studio.sqlite"


def _listening(port: int) -> socket.socket:
    # Named as TCP, or asyncio leaves Nagle's delay on, and every answer waits 40 ms.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
        # Whoever connects before the first answer waits rather than being turned away.
        listener.listen()
    except OSError as error:
        listener.close()
        raise UserError(
            f"Port {port} is taken or not allowed: choose another with --port, or 0 for a free one."
        ) from error
    return listener


def warm() -> None:
    """Load compiled code and tables before the first request, so that nobody waits for it."""
    Session().answer(TrackState())
    # What is loaded by now stays: no later collection has to look through it again.
    gc.collect()
    gc.freeze()


def _serve(studio: Studio, port: int, note: str) -> None:
    # Stopped from outside, it still clears up what is its own.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    # Whoever renders gives way to whoever answers after 1 ms rather than after 5.
    sys.setswitchinterval(0.001)
    with _listening(port) as listener:
        Thread(target=warm, daemon=True).start()
        app = create_app(studio)
        address = f"http://127.0.0.1:{listener.getsockname()[1]}"
        print(f"Juglant is ready at {address}\n{note}\nCtrl+C stops it.", flush=True)
        uvicorn.Server(uvicorn.Config(app, log_level="warning")).run(sockets=[listener])


def serve_studio(port: int, data: Path | None) -> None:
    """Serve the user's own studio, from `data` or the platform's user data folder."""
    folder = data or user_data_path("juglant", appauthor=False)
    path = folder / STUDIO_FILE
    _serve(Studio(path), port, f"Your studio: {path}")


def serve_demo(port: int) -> None:
    """Serve the invented tracks from a folder that is removed at the end."""
    with tempfile.TemporaryDirectory(prefix="juglant-demo-") as folder:
        studio = Studio(Path(folder) / STUDIO_FILE)
        fill(studio)
        _serve(studio, port, "Demo tracks, thrown away at the end; your own studio is not touched.")


if __name__ == "__main__":
    warm()
