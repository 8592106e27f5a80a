"""What every request must be and every response must say, for a server on this machine only."""

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from juglant.api.problems import problem
from juglant.files.sizes import MOST_PARCEL_BYTES, MOST_RECORD_BYTES, MOST_SOUND_BYTES

HOSTS = {"127.0.0.1", "localhost", "::1"}
_MOST_JSON_BYTES = 1024 * 1024
# What takes whole files, and how large they may be.
_UPLOADS = {
    "/api/audio": MOST_SOUND_BYTES,
    **dict.fromkeys(("/api/audio/outline", "/api/audio/stretch", "/api/audio/cut"), MOST_RECORD_BYTES),
    "/api/brief/reference": MOST_SOUND_BYTES,
    "/api/room/responses": MOST_SOUND_BYTES,
    "/api/tracks/parcel": MOST_PARCEL_BYTES,
    "/api/references": MOST_RECORD_BYTES,
}

HEADERS = {
    "Content-Security-Policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; "
        "img-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; "
        "form-action 'none'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def _host(authority: str) -> str | None:
    try:
        return urlsplit(f"//{authority}").hostname
    except ValueError:
        return None


class Guard:
    """Refuses foreign hosts, foreign pages and oversized bodies; adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request, as ASGI has it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers[name] = value
                if scope["path"].startswith("/api/"):
                    # What is named by its content says itself that it may be kept.
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        refused = self._refused(scope)
        await (refused or self._app)(scope, receive, send_guarded)

    def _refused(self, scope: Scope) -> ASGIApp | None:
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if _host(host) not in HOSTS:
            return problem(403, "This server answers on this machine only.", "host")
        if scope["method"] in ("GET", "HEAD"):
            return None
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc != host:
            return problem(403, "Requests from other pages are refused.", "origin")
        length = headers.get("content-length", "0")
        upload = scope["path"] in _UPLOADS
        most = _UPLOADS.get(scope["path"], _MOST_JSON_BYTES)
        if "transfer-encoding" in headers or not length.isdigit():
            return problem(422, "The request must say how long it is.", "invalid")
        if int(length) > most:
            what = "The file" if upload else "The request"
            return problem(413, f"{what} is larger than {most // 2**20} MB.", "too-large", "file")
        return None
