"""Serving the application."""

import gc
from pathlib import Path
from typing import Annotated

import typer

from juglant.cli.app import app
from juglant.core.errors import UserError


@app.command()
def serve(
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 takes a free one.")] = 8137,
    data: Annotated[Path | None, typer.Option(help="Folder of the studio file.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Invented tracks, thrown away at the end.")] = False,
) -> None:
    """Serve the application on this machine only."""
    if demo and data is not None:
        raise UserError("The demo keeps its own data: leave out --data.")
    # Only here: the other commands start without the web server's weight.
    # What a start makes is there to stay: looking through it for what could go is a fifth of the
    # start. `warm` turns the collector on again.
    gc.disable()
    from juglant.api.serve import serve_demo, serve_studio

    if demo:
        serve_demo(port)
    else:
        serve_studio(port, data)
