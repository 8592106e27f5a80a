"""One file, read and measured: what a scan maps over a list of files, wherever that is done."""

import hashlib
import os
from dataclasses import dataclass
from pathlib import Path

from juglant.core.errors import UserError
from juglant.core.stock.known import Known, known
from juglant.files.audio import decode
from juglant.files.sizes import MOST_SOUND_BYTES
from juglant.store import stock


@dataclass(frozen=True)
class Looked:
    """What came of a file: its content, and what was measured of it; or why it cannot be read."""

    digest: str | None
    known: Known | None
    trouble: str | None


def look(path: str, stock_file: str | None = None) -> Looked:
    """Read one file and measure it: what is done with a list of files, wherever that is. A content that a
    stock knows already is not measured again.
    """
    name = os.path.basename(path).encode("utf-8", "replace").decode()
    try:
        if os.path.getsize(path) > MOST_SOUND_BYTES:
            raise UserError(f"“{name}” is larger than {MOST_SOUND_BYTES // 2**20} MB.")
        data = Path(path).read_bytes()
        digest = hashlib.sha256(data).hexdigest()
        if stock_file is not None and stock.measured(stock_file, digest):
            return Looked(digest, None, None)
        audio = decode(data, name)
        return Looked(digest, known(audio.samples, audio.rate), None)
    except UserError as error:
        return Looked(None, None, error.message)
    except OSError as error:
        return Looked(None, None, f"It cannot be read: {error.strerror}.")
