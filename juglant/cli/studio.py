"""Keeping the studio: whether it is whole, copies of it, and what can be saved of a damaged one."""

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from juglant.cli.app import app
from juglant.cli.common import print_table
from juglant.core.errors import UserError
from juglant.store import keeping
from juglant.store.database import studio_path


class What(StrEnum):
    """What is to be done with a studio."""

    CHECK = "check"
    BACKUP = "backup"
    RESTORE = "restore"
    RESCUE = "rescue"


@app.command()
def studio(
    what: What,
    file: Annotated[
        Path | None, typer.Argument(help="The copy to write or to restore, or a folder.")
    ] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the studio file.")] = None,
) -> None:
    """Check the studio, back it up, restore a copy, or rescue what can be read of a damaged one."""
    path = studio_path(data)
    if what is What.CHECK:
        wrong = keeping.check(path)
        if wrong:
            more = "juglant studio rescue FOLDER writes out everything that can be read."
            raise UserError(f"{path} is not whole. {' '.join(wrong)} {more}")
        print(f"{path} is whole.")
        return
    if file is None:
        raise UserError(f"juglant studio {what} needs a {'folder' if what is What.RESCUE else 'file'}.")
    if what is What.BACKUP:
        keeping.backup(path, file)
        print(f"{file}: {file.stat().st_size / 2**20:.1f} MB, checked.")
    elif what is What.RESTORE:
        kept = keeping.restore(path, file)
        print(f"{path} is {file} now." + (f" What was there: {kept}" if kept else ""))
    else:
        print(file)
        print_table([(kind, str(count)) for kind, count in keeping.rescue(path, file).items()])
