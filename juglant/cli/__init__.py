"""The same core from a shell."""

import atexit
import gc
import sys

import typer

from juglant.cli.app import app
from juglant.core.errors import UserError


def main(arguments: list[str] | None = None) -> None:
    """Run a command (of the shell, where none is given) and leave with its exit code.

    A user's mistake is one line on stderr and exit code 2.
    """
    if arguments is None:
        # What the libraries bring stays until the process ends: to look through it for garbage while they
        # load and once more at the end takes a third of a second.
        gc.set_threshold(20_000)
        atexit.register(gc.freeze)
    try:
        status = app(arguments, standalone_mode=False)
    except UserError as error:
        print(f"juglant: {error.message}", file=sys.stderr)
        sys.exit(2)
    except typer.exceptions.TyperException as error:
        said = error.format_message() if hasattr(error, "format_message") else str(error)
        # Where no command was given the list of them has been printed, and there is nothing to add.
        if said.strip():
            print(f"juglant: {' '.join(said.split())}", file=sys.stderr)
        sys.exit(2)
    except (KeyboardInterrupt, typer.Abort):
        sys.exit(130)
    sys.exit(status if isinstance(status, int) else 0)
