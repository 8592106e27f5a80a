"""The same core from a shell."""

import gc
import sys
from pathlib import Path
from typing import Annotated

import typer

# The commands make themselves known to the application when they are read.
from juglant.cli import check, hits, loops, lowend
from juglant.cli.common import app
from juglant.core.errors import UserError

__all__ = ["check", "hits", "loops", "lowend", "main"]


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


def main(arguments: list[str] | None = None) -> None:
    """Run a command (of the shell, where none is given) and leave with its exit code.

    A user's mistake is one line on stderr and exit code 2.
    """
    try:
        status = app(arguments, standalone_mode=False)
    except UserError as error:
        print(f"juglant: {error.message}", file=sys.stderr)
        sys.exit(2)
    except typer.exceptions.TyperException as error:
        said = error.format_message() if hasattr(error, "format_message") else str(error)
        print(f"juglant: {' '.join(said.split())}", file=sys.stderr)
        sys.exit(2)
    except (KeyboardInterrupt, typer.Abort):
        sys.exit(130)
    sys.exit(status if isinstance(status, int) else 0)
