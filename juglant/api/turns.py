"""Questions that render take turns, so that what is light is never behind them. One whose asker has hung up
is dropped: before its turn at once, in it with the next piece that would be made for it.
"""

import asyncio
from asyncio import FIRST_COMPLETED, Future, Semaphore
from threading import Event

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from juglant.api.memory import GivenBack
from juglant.core import kept

# So many are answered at once: as many as a page asks when something was changed. All fixes of a finding
# are tried for seconds, and one after another.
AT_ONCE = 4
_ONE_BY_ONE = "/fixes"
# What only looks something up, or stores it; and whole files, which come as long as their line takes.
_LIGHT = (
    "/api/tracks", "/api/shapes", "/api/brief", "/api/audio", "/api/jobs", "/api/stock",
    "/api/openapi.json", "/api/room/responses", "/api/room/exposure",
    "/api/references",
)  # fmt: skip
# Of those, what renders all the same.
_HEAVY_ENDS = (
    ".zip",
    "/handover",
    "/handed-over",
    "/stock/try",
    "/stock/fit",
    "/against",
    "/nearer",
    "/match",
)


def renders(path: str) -> bool:
    """Whether an address renders something."""
    return path.startswith("/api/") and (not path.startswith(_LIGHT) or path.endswith(_HEAVY_ENDS))


class Turns:
    """Lets so many questions that render through at once; the others wait, as long as their asker does."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._memory = GivenBack()
        self._several, self._single = Semaphore(AT_ONCE), Semaphore(1)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request, as ASGI has it."""
        if scope["type"] != "http" or not renders(scope["path"]):
            await self._app(scope, receive, send)
            return
        body = await _whole(receive)
        if body is None:
            return
        turns = self._single if scope["path"].endswith(_ONE_BY_ONE) else self._several
        gone = asyncio.ensure_future(receive())
        # What is being made ends with its next piece once nobody waits for it.
        away = Event()
        gone.add_done_callback(lambda _: away.set())
        kept.gone.set(away.is_set)
        turn = asyncio.ensure_future(turns.acquire())
        try:
            await asyncio.wait({gone, turn}, return_when=FIRST_COMPLETED)
            if gone.done():
                return
            await self._app(scope, _replayed(body, gone), send)
        finally:
            gone.cancel()
            # A turn that came after its asker had gone is given on.
            if turn.done() and not turn.cancelled():
                turns.release()
            turn.cancel()
            if self._memory.is_due():
                asyncio.get_running_loop().run_in_executor(None, self._memory.give_back)


async def _whole(receive: Receive) -> bytes | None:
    """The body of a request; None where it broke off."""
    body = bytearray()
    while True:
        message = await receive()
        if message["type"] != "http.request":
            return None
        body += message.get("body", b"")
        if not message.get("more_body", False):
            return bytes(body)


def _replayed(body: bytes, gone: Future[Message]) -> Receive:
    """A request that was read already: its body once, then what comes after it."""
    given = False

    async def receive() -> Message:
        nonlocal given
        if not given:
            given = True
            return {"type": "http.request", "body": body, "more_body": False}
        return await asyncio.shield(gone)

    return receive
