"""What is answered with files and samples: each kind under its media type, which the description names."""

from typing import Any

from starlette.responses import JSONResponse, Response, StreamingResponse

# The body of a request that is a file.
FILE_BODY: dict[str, Any] = {
    "requestBody": {
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}
    }
}


class Zip(Response):
    """A ZIP archive."""

    media_type = "application/zip"


class Wav(Response):
    """A WAV file."""

    media_type = "audio/wav"


class Midi(Response):
    """A MIDI file."""

    media_type = "audio/midi"


class RawJson(JSONResponse):
    """JSON that is text already, as it is stored or was written by its model."""

    def render(self, content: str) -> bytes:
        """The text."""
        return content.encode()


class JsonLines(StreamingResponse):
    """A line of JSON for each that is found, as it is found."""

    media_type = "application/x-ndjson"


class Samples(Response):
    """Plain samples, 32 bit floats, little end first, channel after channel."""

    media_type = "application/octet-stream"
