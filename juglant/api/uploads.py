"""Files that are too large for the memory of several at once: they go to the disk as they come."""

import tempfile
from pathlib import Path
from typing import Annotated

from fastapi import Query, Request

Name = Annotated[str, Query(max_length=1000)]


async def to_disk(request: Request, name: str) -> Path:
    """The body of a request as a file that whoever asked removes, its ending that of `name`."""
    with tempfile.NamedTemporaryFile(suffix=Path(name).suffix[:8], delete=False) as file:
        try:
            async for piece in request.stream():
                file.write(piece)
        except BaseException:
            Path(file.name).unlink()
            raise
    return Path(file.name)
