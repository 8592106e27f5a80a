"""A folder beside the arranging project: what is written to it, and what is read of it. Nothing outside the
folder is looked at, and nothing that is there is overwritten.
"""

import os
import shutil
from pathlib import Path

from juglant.core.errors import UserError
from juglant.files.names import plain_name

_SOUNDS = (".wav", ".wave", ".aif", ".aiff", ".flac", ".ogg", ".mp3", ".caf")
_MOST_FILES = 500


def checked_folder(text: str) -> Path:
    """A folder that can be used. UserError says why it cannot."""
    path = Path(text).expanduser()
    if not path.is_absolute():
        raise UserError(f"“{text}” is not a whole path: type it from the root of the disk on.", "folder")
    if not path.exists():
        raise UserError(f"There is no folder {path}.", "folder")
    if not path.is_dir():
        raise UserError(f"{path} is a file, not a folder.", "folder")
    if not os.access(path, os.R_OK | os.W_OK | os.X_OK):
        raise UserError(
            f"{path} may not be read and written: allow both, or name another folder.", "folder"
        )
    return path.resolve()


def sounds_in(folder: Path) -> list[Path]:
    """The sound files that lie in a folder itself, by name."""
    try:
        found = sorted(
            (one for one in folder.iterdir() if one.suffix.lower() in _SOUNDS and one.is_file()),
            key=lambda one: one.name.lower(),
        )
    except OSError as error:
        raise UserError(f"{folder} cannot be read: {error.strerror}.", "folder") from error
    return found[:_MOST_FILES]


def sound_in(folder: Path, name: str) -> Path:
    """A sound file of a folder by its name. UserError where it is not there, or lies elsewhere."""
    path = folder / name
    if Path(name).name != name or path.resolve().parent != folder.resolve():
        raise UserError(f"“{name}” does not lie in {folder}.", "file")
    if path.suffix.lower() not in _SOUNDS or not path.is_file():
        raise UserError(f"There is no sound file “{name}” in {folder} any more.", "file")
    return path


def written(folder: Path, name: str, files: dict[str, bytes]) -> Path:
    """Write files into a folder of their own in a folder, under a name that nothing there has yet."""
    plain = plain_name(name)
    to, number = folder / plain, 2
    while to.exists():
        to, number = folder / f"{plain}-{number}", number + 1
    beside = folder / f".{to.name}.part"
    shutil.rmtree(beside, ignore_errors=True)
    try:
        for path, data in files.items():
            place = beside / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(data)
        os.replace(beside, to)
    except OSError as error:
        shutil.rmtree(beside, ignore_errors=True)
        raise UserError(f"{to} could not be written: {error.strerror}.", "folder") from error
    return to
