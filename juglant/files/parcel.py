"""A track as one file, to go from one studio to another: its JSON, its name, and all its sounds."""

import hashlib
import io
import zipfile
import zlib
from dataclasses import dataclass

from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.recipes.sections import Track
from juglant.files.handover import zipped
from juglant.files.names import numbered
from juglant.files.sizes import MOST_PARCEL_BYTES

_TRACK, _NAME, _AUDIO = "track.json", "name.txt", "audio/"
# More than this no track is made from.
_MOST_FILES = 2000
# How zip programs pack unless told otherwise; what else there is fails in ways of its own.
_PACKED = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
_LONGEST_NAME = 100


@dataclass(frozen=True)
class Sound:
    """A sound file as it was brought: its name and its bytes."""

    name: str
    data: bytes

    @property
    def hash(self) -> str:
        """What a track names it by."""
        return hashlib.sha256(self.data).hexdigest()


@dataclass(frozen=True)
class Parcel:
    """A track with everything that it needs."""

    name: str
    track: Track
    sounds: list[Sound]


def write_parcel(parcel: Parcel) -> bytes:
    """The file. Unpacked, its `track.json` is what the shell reads, the sounds in a folder beside it."""
    files = {_TRACK: parcel.track.model_dump_json(indent=1).encode(), _NAME: parcel.name.encode()}
    names = numbered(
        [sound.name.replace("/", "-").replace("\\", "-") or "sound" for sound in parcel.sounds]
    )
    for name, sound in zip(names, parcel.sounds, strict=True):
        files[f"{_AUDIO}{name}"] = sound.data
    return zipped(files)


def read_parcel(data: bytes, shown: str) -> Parcel:
    """A track with its sounds. UserError, with what is wrong, where it is none or not whole."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            inside = archive.infolist()
            if len(inside) > _MOST_FILES or sum(one.file_size for one in inside) > MOST_PARCEL_BYTES:
                raise UserError(f"“{shown}” holds more than any track is made from.", "file", "too-large")
            if any(one.compress_type not in _PACKED for one in inside):
                raise UserError(f"“{shown}” is packed in a way that cannot be read here.", "file")
            if _TRACK not in archive.namelist():
                raise UserError(f"“{shown}” holds no track: there is no {_TRACK} in it.", "file")
            body = archive.read(_TRACK)
            name = archive.read(_NAME).decode() if _NAME in archive.namelist() else ""
            sounds = [
                Sound(one.filename.removeprefix(_AUDIO), archive.read(one))
                for one in inside if one.filename.startswith(_AUDIO) and not one.is_dir()
            ]  # fmt: skip
    except (
        zlib.error,
        zipfile.BadZipFile,
        UnicodeDecodeError,
        OSError,
        EOFError,
        RuntimeError,
        ValueError,
    ) as error:
        raise UserError(f"“{shown}” is no track file, or it is damaged.", "file") from error
    try:
        track = Track.model_validate_json(body)
    except ValidationError as error:
        raise UserError(
            f"The track in “{shown}” was made by another version and cannot be read.", "file"
        ) from error
    missing = track.audio - {sound.hash for sound in sounds}
    if missing:
        raise UserError(
            f"“{shown}” is not whole: {len(missing)} of the track's sounds are not in it.", "file"
        )
    wanted = [sound for sound in sounds if sound.hash in track.audio]
    plain = "".join(c for c in name.strip() if c.isprintable())[:_LONGEST_NAME].strip()
    return Parcel(plain or "Track", track, wanted)
