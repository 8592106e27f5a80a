"""Starting the server."""

import contextlib
import gc
import signal
import socket
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING

import uvicorn

from juglant.api.early import Early
from juglant.api.memory import share_pools
from juglant.core.errors import UserError
from juglant.store import keeping
from juglant.store.database import STUDIO_FILE, Studio, studio_path

if TYPE_CHECKING:
    from fastapi import FastAPI

    from juglant.api.studio import Desk
    from juglant.core.recipes.track import TrackState

# What renders is imported where it is first needed: the page is there before it.


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


def _first_state(desk: "Desk") -> "TrackState":
    """What is opened first: the oldest track, or what a new one begins with."""
    from juglant.api.studio import read_track
    from juglant.core.recipes.track import TrackState
    from juglant.store import tracks

    with desk.studio.reading() as db:
        for track in tracks.everything(db)[:1]:
            return read_track(tracks.get(db, track.id).body).state
    return TrackState()


def warm(desk: "Desk") -> None:
    """Answer the first track before it is asked for: compiled code and tables are loaded on the
    way, and what is rendered is kept for the page that will ask.
    """
    from juglant.api.views import answer_view
    from juglant.core import RATE

    try:
        with contextlib.suppress(UserError):  # who opens a track that cannot be read is told then
            answer_view(desk.session, _first_state(desk), 0, RATE)
    finally:
        # What is loaded by now stays: no later collection has to look through it again.
        gc.collect()
        gc.freeze()
        gc.enable()


def _loaded(studio: Studio, fill: Callable[[Studio], None] | None) -> "FastAPI":
    """The application of a studio, which is filled before; it goes on to get warm by itself."""
    from juglant.api.app import create_app
    from juglant.api.folders import watch

    if fill is not None:
        fill(studio)
    app = create_app(studio)
    watch(app)
    Thread(target=warm, args=(app.state.desk,), daemon=True).start()
    return app


def _serve(studio: Studio, port: int, note: str, fill: Callable[[Studio], None] | None = None) -> None:
    # Stopped from outside, it still clears up what is its own.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    # Whoever renders gives way to whoever answers after 1 ms rather than after 5.
    sys.setswitchinterval(0.001)
    share_pools()
    with _listening(port) as listener:
        early: Early[FastAPI] = Early()
        server = uvicorn.Server(uvicorn.Config(early, log_level="warning", lifespan="off"))

        def stop() -> None:
            server.should_exit = True

        early.begin(lambda: _loaded(studio, fill), stop)
        address = f"http://127.0.0.1:{listener.getsockname()[1]}"
        print(f"Juglant is ready at {address}\n{note}\nCtrl+C stops it.", flush=True)
        try:
            server.run(sockets=[listener])
        finally:
            if early.app is not None:
                early.app.state.watching.end()
                early.app.state.jobs.end()


def serve_studio(port: int, data: Path | None) -> None:
    """Serve the user's own studio, from `data` or the platform's user data folder."""
    path = studio_path(data)
    studio = keeping.opened(path)
    Thread(target=keeping.looked_after, args=(studio,), daemon=True).start()
    _serve(studio, port, f"Your studio: {path}")


def _demo(studio: Studio) -> None:
    from juglant.demo.scenario import fill

    fill(studio)


def serve_demo(port: int) -> None:
    """Serve the invented tracks from a folder that is removed at the end."""
    with tempfile.TemporaryDirectory(prefix="juglant-demo-") as folder:
        studio = Studio(Path(folder) / STUDIO_FILE)
        note = "Demo tracks, thrown away at the end; your own studio is not touched."
        _serve(studio, port, note, _demo)


if __name__ == "__main__":
    from juglant.api.studio import open_desk

    with tempfile.TemporaryDirectory() as folder:
        warm(open_desk(Studio(Path(folder) / STUDIO_FILE)))
