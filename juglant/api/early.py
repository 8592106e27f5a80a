"""The page at once, the rest when it is loaded: what computes takes longer to load than what serves."""

import asyncio
from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path
from threading import Thread
from typing import Generic, TypeVar

from starlette.types import ASGIApp, Receive, Scope, Send

from juglant.api.guard import Guard
from juglant.api.pages import PAGES, Pages

App = TypeVar("App", bound=ASGIApp)


class Early(Generic[App]):
    """Serves the page's files while the application is made; questions wait for it."""

    def __init__(self, pages: Path = PAGES) -> None:
        self._files = Guard(Pages(directory=pages, check_dir=False))
        self._loading: Future[App] = Future()

    def begin(self, load: Callable[[], App], stop: Callable[[], None]) -> None:
        """Make the application, beside whoever calls. What goes wrong is kept for `app`; then `stop` is
        called.
        """
        # A question that is given up while it waits must not give up the loading.
        self._loading.set_running_or_notify_cancel()

        def make() -> None:
            try:
                self._loading.set_result(load())
            except BaseException as trouble:
                self._loading.set_exception(trouble)
                stop()

        Thread(target=make, daemon=True).start()

    @property
    def app(self) -> App | None:
        """The application; None while it is being made. What went wrong with that is raised."""
        return self._loading.result() if self._loading.done() else None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request, as ASGI has it."""
        app = self.app
        if app is None and scope["path"].startswith("/api/"):
            app = await asyncio.wrap_future(self._loading)
        await (app or self._files)(scope, receive, send)
